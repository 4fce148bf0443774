import { Box, chakra } from "@chakra-ui/react";
import { Fragment, memo } from "react";
import { GROUPS, STEPS, STEP_NAMES, type Step, groupOf } from "../document/steps";

interface RailProps {
  current: Step | null;
  shown: Step;
  /** Stops of each step, in order, as in `0,1,0,0`. */
  stops: string;
  onStep: (step: Step | undefined) => void;
}

/** The order of the job: down the left edge, or along the bottom of a phone. */
export const StepRail = memo(function StepRail({ current, shown, stops, onStep }: RailProps) {
  const counts = stops.split(",").map(Number);
  const open = groupOf(shown);
  return (
    <Box
      as="nav"
      aria-label="Steps"
      display="flex"
      flexDirection={{ base: "row", md: "column" }}
      position={{ base: "fixed", md: "static" }}
      bottom="0"
      insetX="0"
      zIndex={{ base: "docked", md: "auto" }}
      bg="bg.panel"
      borderTopWidth={{ base: "1px", md: "0" }}
      borderRightWidth={{ md: "1px" }}
      pt={{ md: "3" }}
    >
      <StepButton hideFrom="md" name="Verdict" number="✓" on={current === null} count={0} onClick={() => onStep(undefined)} />
      {GROUPS.map((group) =>
        group === open ? (
          <Fragment key={group.name}>
            <Box hideBelow="md" as="h2" fontSize="xs" color="fg.muted" textAlign="center" pt="2">
              {group.name}
            </Box>
            {group.steps.map((step) => (
              <StepButton
                key={step}
                name={STEP_NAMES[step]}
                number={String(STEPS.indexOf(step) + 1)}
                on={current === step}
                mdOn={shown === step}
                count={counts[STEPS.indexOf(step)] ?? 0}
                onClick={() => onStep(step)}
              />
            ))}
          </Fragment>
        ) : (
          // A part of the job that is not in use is one mark.
          <StepButton key={group.name} name={group.name} number="›" on={false} count={0} onClick={() => onStep(group.steps[0]!)} />
        ),
      )}
    </Box>
  );
});

interface StepButtonProps {
  name: string;
  number: string;
  on: boolean;
  mdOn?: boolean;
  count: number;
  hideFrom?: "md";
  onClick: () => void;
}

function StepButton({ name, number, on, mdOn = on, count, hideFrom, onClick }: StepButtonProps) {
  const edge = { base: on ? "lantern.solid" : "transparent", md: mdOn ? "lantern.solid" : "transparent" };
  return (
    <chakra.button
      type="button"
      hideFrom={hideFrom}
      aria-current={mdOn ? "step" : undefined}
      onClick={onClick}
      flex={{ base: "1", md: "none" }}
      minH="14"
      py="2"
      display="flex"
      flexDirection="column"
      alignItems="center"
      justifyContent="center"
      cursor="pointer"
      borderTopWidth={{ base: "3px", md: "0" }}
      borderLeftWidth={{ md: "3px" }}
      borderColor={edge}
      bg={{ base: on ? "bg.muted" : undefined, md: mdOn ? "bg.muted" : undefined }}
      color={{ base: on ? "fg" : "fg.muted", md: mdOn ? "fg" : "fg.muted" }}
      fontSize={{ base: "2xs", md: "xs" }}
      _hover={{ bg: "bg.muted" }}
    >
      <Box as="span" aria-hidden fontSize="md" fontWeight="semibold" position="relative">
        {number}
        {/* Beside the number: what comes with the first answer moves nothing. */}
        {count > 0 && (
          <Box
            as="span"
            position="absolute"
            left="100%"
            // On a phone the next number stands close by: above the line nobody reads them as one.
            top={{ base: "-1.5", md: "auto" }}
            ml={{ base: "0.5", md: "1.5" }}
            color="stop.fg"
            fontSize={{ base: "2xs", md: "sm" }}
            wordSpacing={{ base: "-0.2em", md: "normal" }}
            whiteSpace="nowrap"
          >
            ✕ {count}
          </Box>
        )}
      </Box>
      {name}
      {count > 0 && (
        <span className="heard">
          {count} stop{count > 1 ? "s" : ""}
        </span>
      )}
    </chakra.button>
  );
}
