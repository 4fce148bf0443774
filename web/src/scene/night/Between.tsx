import { Box } from "@chakra-ui/react";
import { type ReactNode, useRef, useState } from "react";

const STEP = 2;

interface Props {
  left: ReactNode;
  right: ReactNode;
  /** What each is, in a word or two. */
  names: readonly [string, string];
}

/** Two pictures of one size over each other, with a line that is dragged between them, by hand or by keys. */
export function Between({ left, right, names }: Props) {
  const [share, setShare] = useState(50);
  const box = useRef<HTMLDivElement>(null);
  const put = (next: number) => setShare(Math.round(Math.min(100, Math.max(0, next))));
  const drag = (event: React.PointerEvent) => {
    const frame = box.current?.getBoundingClientRect();
    if (frame && event.currentTarget.hasPointerCapture(event.pointerId)) put((100 * (event.clientX - frame.left)) / frame.width);
  };
  const name = (text: string, side: "left" | "right") => (
    <Box
      position="absolute"
      top="2"
      {...{ [side]: "2" }}
      px="2"
      py="0.5"
      borderRadius="sm"
      bg="blackAlpha.700"
      color="white"
      fontSize="xs"
      pointerEvents="none"
    >
      {text}
    </Box>
  );
  return (
    <Box ref={box} position="relative" overflow="hidden" data-between={share}>
      {left}
      <Box position="absolute" inset="0" style={{ clipPath: `inset(0 0 0 ${share}%)` }}>
        {right}
      </Box>
      {name(names[0], "left")}
      {name(names[1], "right")}
      <Box
        role="slider"
        tabIndex={0}
        aria-label={`Line between ${names[0]} and ${names[1]}`}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={share}
        aria-valuetext={`${share} % ${names[0]}, ${100 - share} % ${names[1]}`}
        position="absolute"
        top="0"
        bottom="0"
        left={`${share}%`}
        w="11"
        ml="-5.5"
        cursor="ew-resize"
        touchAction="none"
        display="flex"
        justifyContent="center"
        alignItems="center"
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={drag}
        onKeyDown={(event) => {
          const to = { ArrowLeft: share - STEP, ArrowRight: share + STEP, ArrowDown: share - STEP, ArrowUp: share + STEP, Home: 0, End: 100 }[event.key];
          if (to === undefined) return;
          event.preventDefault();
          put(to);
        }}
      >
        <Box position="absolute" top="0" bottom="0" w="2px" bg="whiteAlpha.800" />
        <Box
          position="relative"
          w="7"
          h="7"
          borderRadius="full"
          bg="whiteAlpha.900"
          color="black"
          fontSize="xs"
          display="flex"
          alignItems="center"
          justifyContent="center"
          aria-hidden
        >
          ◂▸
        </Box>
      </Box>
    </Box>
  );
}
