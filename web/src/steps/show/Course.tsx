import type { ShowView } from "../../api/client";
import { say } from "../../units";

const SIZE = { width: 640, height: 92, left: 64, right: 8, top: 10, bottom: 20 };

interface Props {
  view: ShowView;
  time: number;
  onSeek: (time: number) => void;
}

/** What all pixels ask for over once around; a click goes to that moment, and so does the button of the worst one. */
export function Course({ view, time, onSeek }: Props) {
  const { t_s, current_a } = view.course;
  const end = t_s.at(-1) ?? 1;
  const top = Math.max(...current_a, 1e-9) * 1.1;
  const x = (at: number) => SIZE.left + ((SIZE.width - SIZE.left - SIZE.right) * at) / end;
  const y = (amps: number) => SIZE.height - SIZE.bottom - ((SIZE.height - SIZE.top - SIZE.bottom) * amps) / top;
  const shown = end > 0 ? time % end : 0;
  const worst = view.power.worst.t_s;
  return (
    <figure className="course">
      <svg
        viewBox={`0 0 ${SIZE.width} ${SIZE.height}`}
        role="img"
        aria-label={`Current of all pixels over ${say({ value: end, unit: "s" })}: at most ${say({ value: Math.max(...current_a), unit: "A" })}`}
        style={{ width: "100%", cursor: "pointer" }}
        onClick={(event) => {
          const { left, width } = event.currentTarget.getBoundingClientRect();
          const at = ((event.clientX - left) / width) * SIZE.width;
          onSeek(Math.min(Math.max(((at - SIZE.left) / (SIZE.width - SIZE.left - SIZE.right)) * end, 0), end));
        }}
      >
        {[0, top / 1.1].map((amps) => (
          <g key={amps} fontSize="14" fill="var(--chakra-colors-fg-muted)">
            <path d={`M${SIZE.left} ${y(amps)}H${SIZE.width - SIZE.right}`} stroke="var(--chakra-colors-border)" />
            <text x={SIZE.left - 6} y={y(amps) + 4} textAnchor="end">
              {say({ value: amps, unit: "A" })}
            </text>
          </g>
        ))}
        <text x={SIZE.left} y={SIZE.height - 4} fontSize="14" fill="var(--chakra-colors-fg-muted)">
          0 s
        </text>
        <text x={SIZE.width - SIZE.right} y={SIZE.height - 4} fontSize="14" textAnchor="end" fill="var(--chakra-colors-fg-muted)">
          {say({ value: end, unit: "s" })}
        </text>
        <path
          d={`M${t_s.map((at, index) => `${x(at).toFixed(1)} ${y(current_a[index]!).toFixed(1)}`).join("L")}`}
          fill="none"
          stroke="var(--chakra-colors-lantern-solid)"
          strokeWidth="1.6"
        />
        {view.moves && (
          <>
            <path d={`M${x(shown)} ${SIZE.top}V${SIZE.height - SIZE.bottom}`} stroke="var(--chakra-colors-fg)" strokeWidth="1.2" />
            <circle
              cx={x(worst)}
              cy={y(current_a[t_s.findIndex((at) => at >= worst)] ?? 0)}
              r="4.5"
              fill="none"
              stroke="var(--chakra-colors-stop-fg)"
              strokeWidth="2"
            />
          </>
        )}
      </svg>
    </figure>
  );
}
