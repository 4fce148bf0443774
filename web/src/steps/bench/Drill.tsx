import { Box, Button } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { type Dealt, type DrillRequest, type Marked, type MeterShows, type MeterStands, answer, api, problemOf } from "../../api/client";
import { Choice } from "../../job/fields";
import { Segments } from "../../ui/Segments";
import { Card } from "../../ui/StepHeading";
import { onMeter, say } from "../../units";
import { FaultList } from "./FaultList";
import { MeterDisplay } from "./MeterDisplay";
import { Points, byPart } from "./Points";
import { LOOKS } from "./words";

/** How a drill went. */
export interface Outcome {
  fault: string;
  checks: number;
  seconds: number;
  mistakes: string[];
  right: boolean;
  good: boolean;
}

interface Props {
  drill: DrillRequest;
  dealt: Dealt;
  selected: string | null;
  onDone: (outcome: Outcome) => void;
  onAgain: () => void;
  onClose: () => void;
}

type Kind = "volts" | "amps" | "clamp" | "ohms" | "diode";
const KINDS: readonly (readonly [Kind, string])[] = [
  ["volts", "V"],
  ["ohms", "Ω"],
  ["diode", "diode"],
  ["amps", "A"],
  ["clamp", "clamp"],
];

interface Noted {
  where: string;
  shown: string;
}

const minutes = (seconds: number) => (seconds < 90 ? `${Math.round(seconds)} s` : `${(seconds / 60).toFixed(1)} min`);

/** A meter, a hidden fault, and a clock that counts work, not thinking. */
export function Drill({ drill, dealt, selected, onDone, onAgain, onClose }: Props) {
  const [power, setPower] = useState(true);
  const [kind, setKind] = useState<Kind>("volts");
  const [across, setAcross] = useState(false);
  const [red, setRed] = useState("source+");
  const [black, setBlack] = useState("source-");
  const [run, setRun] = useState("source");
  const [meter, setMeter] = useState<MeterStands>(() => ({ serial: drill.seed % 1000, amps_fuse: true, milliamps_fuse: true, zeroed: false }));
  const [noted, setNoted] = useState<Noted[]>([]);
  const [seconds, setSeconds] = useState(0);
  const [mistakes, setMistakes] = useState<string[]>([]);
  const [warning, setWarning] = useState<string | null>(null);
  const [guess, setGuess] = useState("");
  const [wrong, setWrong] = useState(false);
  const work = (more: number) => setSeconds((now) => now + more);
  const hurt = (what: string, says: string) => {
    setMistakes((all) => [...all, what]);
    setWarning(says);
  };
  const inLine = kind === "clamp" || (kind === "amps" && !across);
  const take = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/v1/measure", {
          body: {
            drill,
            power,
            setting: kind,
            milliamps: false,
            probes: inLine ? [kind === "amps" && run !== "source" ? `${run}:from+` : run] : [red, black],
            meter,
          },
        }),
      ),
    onSuccess: (shown) => {
      setMeter(shown.meter);
      work(shown.work_s);
      setWarning(null);
      if (shown.event && shown.says) hurt(shown.event, shown.says);
      const where = inLine ? `${kind === "clamp" ? "clamp around" : "in line at"} ${run}` : `${red} and ${black}`;
      setNoted((all) => [{ where: `${where}${power ? "" : ", power off"}`, shown: words(shown) }, ...all]);
    },
  });
  const mark = useMutation({
    mutationFn: (guess: string | null) => answer(api.POST("/api/v1/answer", { body: { drill, guess } })),
    onSuccess: (marked, guess) => {
      setWrong(guess !== null && !marked.right);
      if (guess !== null && !marked.right) return work(dealt.swap_s);
      const right = marked.right;
      const good = right && mistakes.length === 0 && !tried;
      onDone({ fault: marked.fault ?? "", checks: noted.length, seconds, mistakes, right, good });
    },
    onMutate: (guess) => {
      if (guess !== null) setTries((all) => all + 1);
    },
  });
  const [tries, setTries] = useState(0);
  const tried = tries > 1;
  const over = mark.data && (mark.data.fault ?? null) !== null ? mark.data : null;
  const { points, feeds } = dealt;
  const groups = useMemo(() => byPart(dealt.answers), [dealt.answers]);
  const touch = (id: string) => {
    const has = (point: string) => points.includes(point);
    setRed([`${id}:to+`, `${id}+`, `${id}:out+`].find(has) ?? red);
    setBlack([`${id}:to-`, `${id}-`, `${id}:out-`].find(has) ?? black);
    if (feeds.includes(id)) setRun(id);
  };
  const shown = take.data;
  if (over) return <Result marked={over} seconds={seconds} checks={noted.length} mistakes={mistakes} onAgain={onAgain} onClose={onClose} />;
  return (
    <>
      <Found dealt={dealt} onClose={onClose} />
      <Card
        title="Meter"
        aside={
          <Box fontSize="sm" color="fg.muted">
            work so far <b>{minutes(seconds)}</b>
          </Box>
        }
      >
        <Box display="flex" flexWrap="wrap" gap="2" mb="3">
          <Segments label="Set to" quiet value={kind} options={KINDS} onChange={setKind} />
          <Segments
            label="Power"
            quiet
            value={power ? "on" : "off"}
            options={[
              ["on", "power on"],
              ["off", "power off"],
            ]}
            onChange={(next) => {
              if ((next === "on") === power) return;
              setPower(next === "on");
              work(dealt.power_s);
            }}
          />
        </Box>
        <MeterDisplay>{take.isPending ? "…" : shown ? words(shown) : "–"}</MeterDisplay>
        {take.error && (
          <Box role="alert" color="stop.fg" mb="3">
            {problemOf(take.error).detail}
          </Box>
        )}
        {warning && (
          <Box role="alert" className="card" borderColor="stop.solid" bg="stop.bg" mb="3">
            <b>✕ Stop.</b> {warning}
            {!meter.amps_fuse && (
              <Button
                size="sm"
                minH="9"
                variant="outline"
                mt="2"
                display="block"
                onClick={() => {
                  setMeter({ ...meter, amps_fuse: true });
                  setWarning(null);
                  work(dealt.meter_fuse_s);
                }}
              >
                Put a new fuse into the meter
              </Button>
            )}
          </Box>
        )}
        {kind === "amps" && (
          <Box mb="3">
            <Segments
              label="The meter is"
              quiet
              value={across ? "across" : "line"}
              options={[
                ["line", "in line"],
                ["across", "across"],
              ]}
              onChange={(next) => setAcross(next === "across")}
            />
          </Box>
        )}
        {inLine ? (
          <Choice
            label={kind === "clamp" ? "Around the wire of" : "Opened at the start of"}
            value={run}
            options={["source", ...feeds].map((id) => [id, id === "source" ? "the battery’s lead" : id] as const)}
            onChange={setRun}
          />
        ) : (
          <Box display="grid" gap="3">
            <Points label="Red probe on" value={red} points={points} words={dealt.words} onChange={setRed} />
            <Points label="Black probe on" value={black} points={points} words={dealt.words} onChange={setBlack} />
          </Box>
        )}
        <Box display="flex" flexWrap="wrap" gap="2" mt="3">
          <Button size="sm" minH="9" colorPalette="lantern" loading={take.isPending} onClick={() => take.mutate()}>
            Read
          </Button>
          {kind === "clamp" && !meter.zeroed && (
            <Button size="sm" minH="9" variant="outline" onClick={() => setMeter({ ...meter, zeroed: true })}>
              Zero the clamp
            </Button>
          )}
          {selected && points.some((point) => point.startsWith(selected)) && (
            <Button size="sm" minH="9" variant="outline" onClick={() => touch(selected)}>
              Put the probes on {selected}
            </Button>
          )}
        </Box>
        {noted.length > 0 && (
          <Box as="ul" listStyleType="none" mt="3" fontSize="sm" aria-label="Read so far">
            {noted.map((one, index) => (
              <Box as="li" key={noted.length - index} display="flex" justifyContent="space-between" gap="3" borderTopWidth="1px" py="1">
                <span>{one.where}</span>
                <b>{one.shown}</b>
              </Box>
            ))}
          </Box>
        )}
      </Card>
      <Card title="What is it?">
        <FaultList label="The fault is" none="choose …" value={guess} groups={groups} onChange={setGuess} />
        <Box display="flex" flexWrap="wrap" gap="2" mt="3">
          <Button size="sm" minH="9" colorPalette="lantern" disabled={guess === ""} loading={mark.isPending} onClick={() => mark.mutate(guess)}>
            Mend that
          </Button>
          <Button size="sm" minH="9" variant="outline" onClick={() => mark.mutate(null)}>
            Show me
          </Button>
          {dealt.bridged[0] && (
            <Button
              size="sm"
              minH="9"
              variant="outline"
              onClick={() => hurt("fuse_bridged", (dealt.bridged.find((one) => one.feed === run || one.feed === selected) ?? dealt.bridged[0]!).words)}
            >
              Bridge a fuse
            </Button>
          )}
        </Box>
        {wrong && (
          <Box role="alert" color="fix.fg" mt="2">
            ! That was not it: two minutes of work, and the fault is still there.
          </Box>
        )}
        {mark.error && (
          <Box role="alert" color="stop.fg" mt="2">
            {problemOf(mark.error).detail}
          </Box>
        )}
      </Card>
    </>
  );
}

/** How the lights look when one comes to it, and what a hand feels. */
function Found({ dealt, onClose }: Pick<Props, "dealt" | "onClose">) {
  return (
    <Card
      title="What you find"
      aside={
        <Button size="xs" minH="8" variant="outline" onClick={onClose}>
          Leave
        </Button>
      }
    >
      <Box as="ul" listStyleType="none">
        {dealt.lights.map((look) => (
          <Box as="li" key={look.light} display="flex" justifyContent="space-between" gap="3">
            <span>{look.light}</span>
            <Box as="span" color={look.symptom === "fine" ? "fg.muted" : "fix.fg"} fontWeight={look.symptom === "fine" ? undefined : "semibold"}>
              {LOOKS[look.symptom] ?? look.symptom}
              {look.dark_from ? ` from ${look.dark_from} on` : ""}
              {look.symptom === "fine" && look.share < 0.9 ? ", a little weak" : ""}
              {look.share > 1.1 ? ", too bright" : ""}
            </Box>
          </Box>
        ))}
      </Box>
      {dealt.opened && <Box color="fix.fg">! Something has opened or given up. Which, is for the meter to say.</Box>}
      {dealt.hot.map((feed) => (
        <Box key={feed} color="stop.fg" fontWeight="semibold">
          ✕ The wire of {feed} is hot.
        </Box>
      ))}
    </Card>
  );
}

function words(shown: MeterShows): string {
  if (shown.event === "fuse_blown") return "––";
  if (shown.value === null || shown.value === undefined) return shown.unit === "ohm" || shown.unit === "V" ? "open" : "over";
  return `${onMeter({ value: shown.value, unit: shown.unit })}${shown.beeps ? " ♪" : ""}`;
}

interface ResultProps {
  marked: Marked;
  seconds: number;
  checks: number;
  mistakes: string[];
  onAgain: () => void;
  onClose: () => void;
}

function Result({ marked, seconds, checks, mistakes, onAgain, onClose }: ResultProps) {
  const won = marked.right && seconds <= marked.search_s;
  return (
    <Card title={marked.right ? (won ? "Found, and sooner than the program" : "Found") : "It was this"}>
      <Box role="status">
        <Box fontSize="lg" fontWeight="semibold" color={marked.right ? "good.fg" : "lantern.fg"}>
          {marked.words?.replace(/^./, (letter) => letter.toUpperCase())}
        </Box>
        <Box my="2">{marked.repair}</Box>
        <Box as="table" className="data">
          <caption>Work, not thinking</caption>
          <tbody>
            <tr>
              <th scope="row">you</th>
              <td>{minutes(seconds)}</td>
              <td>{checks === 1 ? "1 reading" : `${checks} readings`}</td>
            </tr>
            <tr>
              <th scope="row">the program</th>
              <td>{minutes(marked.search_s)}</td>
              <td>{marked.search.length === 1 ? "1 reading" : `${marked.search.length} readings`}</td>
            </tr>
          </tbody>
        </Box>
        {mistakes.length > 0 && (
          <Box color="fix.fg" mt="2">
            ! {mistakes.length === 1 ? "One mistake" : `${mistakes.length} mistakes`} that would have hurt. It comes back tomorrow.
          </Box>
        )}
      </Box>
      <Box as="h4" color="fg.muted" mt="4" mb="1">
        How the program would have gone about it
      </Box>
      <Box as="ol" listStyleType="none" fontSize="sm">
        {marked.search.length === 0 && <Box as="li">By looking alone: nothing else looks like this.</Box>}
        {marked.search.map((check) => (
          <Box as="li" key={check.how} borderTopWidth="1px" py="1.5">
            {check.how} <b>{check.shown === null || check.shown === undefined ? "open" : say({ value: check.shown, unit: check.unit })}</b>
          </Box>
        ))}
      </Box>
      <Box display="flex" flexWrap="wrap" gap="2" mt="3">
        <Button size="sm" minH="9" colorPalette="lantern" onClick={onAgain}>
          Another of this level
        </Button>
        <Button size="sm" minH="9" variant="outline" onClick={onClose}>
          Back to the list
        </Button>
      </Box>
    </Card>
  );
}
