import { Box, Spinner } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Board, type Build, answer, api, problemOf } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import { Failure } from "../../ui/Failure";
import { Segments } from "../../ui/Segments";
import { ruler } from "../../units";

const HOLE = 20;
const EDGE = 30;
const SIDES = [
  ["top", "From above"],
  ["under", "From below"],
] as const;

/** A circuit on perforated board: from above, and mirrored as it lies while it is soldered. */
export default function BoardView({ build, circuit }: { build: Build; circuit: string }) {
  const [side, setSide] = useState<"top" | "under">("top");
  const asked = useQuery({
    queryKey: ["board", numberOf(build), circuit],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/circuit/board", { body: { document: build, circuit }, signal })),
    staleTime: Infinity,
    gcTime: 20_000,
  });
  if (asked.error) return <Failure problem={problemOf(asked.error)} retry={() => void asked.refetch()} />;
  if (!asked.data) return <Spinner size="sm" role="status" aria-label="Laying it out" />;
  const board = asked.data;
  return (
    <Box mt="3">
      <h3 className="chart-title">On perforated board</h3>
      <Segments label="Side of the board" value={side} options={SIDES} onChange={(value) => setSide(value as "top" | "under")} />
      <Box overflowX="auto" mt="2" tabIndex={0} role="region" aria-label={`Board of ${circuit}`}>
        <Drawn board={board} under={side === "under"} />
      </Box>
      <p className="quiet">
        {`${board.columns} by ${board.rows} holes, ${ruler({ value: board.size_m[0]!, unit: "m" })} by ${ruler({ value: board.size_m[1]!, unit: "m" })}; `}
        {board.jumpers.length === 0 ? "no wire over the top. " : `${board.jumpers.length} over the top. `}
        Legs of transistors come in another order from part to part: look at yours.
      </p>
      <details>
        <summary>Where each leg goes, and what to cut</summary>
        <table className="plain">
          <thead>
            <tr>
              <th>Part</th>
              <th>Legs</th>
            </tr>
          </thead>
          <tbody>
            {board.parts.map((part) => (
              <tr key={part.name}>
                <td>
                  <b>{part.name}</b> {part.called !== part.name && part.called}
                </td>
                <td>{part.legs.map((leg) => `${leg.called} ${leg.label}`).join(", ")}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <ul>
          {board.cuts.map((cut) => (
            <li key={`${cut.what} ${cut.length_m}`}>{`${cut.count} × ${cut.what}: ${(1e3 * cut.length_m).toFixed(1)} mm`}</li>
          ))}
        </ul>
      </details>
    </Box>
  );
}

function Drawn({ board, under }: { board: Board; under: boolean }) {
  const [width, height] = [2 * EDGE + HOLE * (board.columns - 1), 2 * EDGE + HOLE * (board.rows - 1)];
  const x = (column: number) => EDGE + HOLE * (under ? board.columns - 1 - column : column);
  const y = (row: number) => EDGE + HOLE * row;
  const points = (holes: readonly number[][]) => holes.map((hole) => `${x(hole[0]!)},${y(hole[1]!)}`).join(" ");
  const letter = (column: number) => String.fromCharCode(65 + (column % 26));
  const columns = Array.from({ length: board.columns }, (_, column) => column);
  const rows = Array.from({ length: board.rows }, (_, row) => row);
  return (
    <svg
      className="board"
      viewBox={`0 0 ${width} ${height}`}
      width={width}
      role="img"
      aria-label={`The board ${under ? "from below, mirrored" : "from above"}: ${board.parts.map((part) => part.name).join(", ")}`}
    >
      <rect x="16" y="16" width={width - 32} height={height - 32} rx="4" className="plate" />
      {columns.map((column) => (
        <text key={column} x={x(column)} y="11" textAnchor="middle">
          {letter(column)}
        </text>
      ))}
      {rows.map((row) => (
        <text key={row} x="8" y={y(row) + 4} textAnchor="middle">
          {row + 1}
        </text>
      ))}
      {rows.flatMap((row) => columns.map((column) => <circle key={`${column} ${row}`} cx={x(column)} cy={y(row)} r="2.500" className="hole" />))}
      <g className={under ? "track" : "track behind"}>
        {board.tracks.map((track, index) => (
          <polyline key={index} points={points(track.holes)} />
        ))}
      </g>
      {board.parts.map((part) => (
        <Part key={part.name} part={part} x={x} y={y} behind={under} />
      ))}
      {board.jumpers.map((jumper, index) => (
        <line
          key={index}
          className={under ? "jumper behind" : "jumper"}
          x1={x(jumper.from[0]!)}
          y1={y(jumper.from[1]!)}
          x2={x(jumper.to[0]!)}
          y2={y(jumper.to[1]!)}
        />
      ))}
    </svg>
  );
}

interface PartProps {
  part: Board["parts"][number];
  x: (column: number) => number;
  y: (row: number) => number;
  behind: boolean;
}

function Part({ part, x, y, behind }: PartProps) {
  const at = part.legs.map((leg) => [x(leg.hole[0]!), y(leg.hole[1]!)] as const);
  const [xs, ys] = [at.map((one) => one[0]), at.map((one) => one[1])];
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  const [width, height] = [Math.max(...xs) - left, Math.max(...ys) - top];
  const room = part.kind === "timer" ? 8 : 7;
  return (
    <g className={behind ? "thing behind" : "thing"}>
      {part.kind === "terminal" ? (
        <circle cx={at[0]![0]} cy={at[0]![1]} r="7" className="terminal" />
      ) : (
        <rect x={left - room} y={top - room} width={width + 2 * room} height={height + 2 * room} rx={part.kind === "capacitor" ? 9 : 3} />
      )}
      {at.map(([cx, cy], index) => (
        <circle key={part.legs[index]!.label} cx={cx} cy={cy} r="3.500" className="leg">
          <title>{`${part.name}, ${part.legs[index]!.called}, ${part.legs[index]!.label}`}</title>
        </circle>
      ))}
      <text x={left + width / 2} y={height === 0 ? top - 10 : top + height / 2 + 4} textAnchor="middle">
        {part.name}
      </text>
    </g>
  );
}
