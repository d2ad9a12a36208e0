import { type MouseEvent, useRef, useState } from "react";
import type { Schemas, Strip } from "../../api/client";
import { useMachines } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { Flag } from "../../ui/marks";
import { useReaderUnits } from "../../ui/readerUnits";
import { BookFrame } from "./BookFrame";
import { type BookLine, BookList } from "./BookList";
import type { BookProps } from "./bookProps";
import type { Driving } from "./driving";
import { HowSown, sownFor, storeSown } from "./HowSown";
import { type Deviated, OtherwiseForm } from "./OtherwiseForm";
import type { VoidWaiting, Waiting } from "./outbox";

type Line = BookLine & { kind: "planting-record" | "deviation"; version: number };
type Row = Schemas["StripPlantingOut"] | undefined;

const NOWHERE = { text: "", unit: "" };
const clock = (at: string) => new Date(at).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
const sownWords = (at: string, setting: string) => `sown ${clock(at)}${setting ? `, setting ${setting}` : ""}`;

/** What is known of the sowing of one strip, here and on the server together. */
export function sowingOf(row: Row, waiting: Waiting[], stripId: string): Line[] {
  const voided = new Set(waiting.flatMap((item) => (item.kind === "void" ? [item.recordId] : [])));
  const kept: Line[] = [
    ...(row?.records ?? []).map((record) => ({
      id: record.id,
      kind: "planting-record" as const,
      text: sownWords(record.sown_at, record.setting),
      version: record.version,
      waiting: false,
      refused: null,
    })),
    ...(row?.deviations ?? []).map((deviation) => ({
      id: deviation.id,
      kind: "deviation" as const,
      text: deviation.words,
      version: deviation.version,
      waiting: false,
      refused: null,
    })),
  ].filter((item) => !voided.has(item.id));
  const known = new Set(kept.map((line) => line.id));
  const here = waiting.flatMap((item): Line[] => {
    if (item.stripId !== stripId || known.has(item.id)) return [];
    const common = { id: item.id, version: 1, waiting: true, refused: item.refused };
    if (item.kind === "sowing")
      return [{ ...common, kind: "planting-record", text: sownWords(item.body.sown_at, item.body.setting ?? "") }];
    return item.kind === "deviation" ? [{ ...common, kind: "deviation", text: item.words }] : [];
  });
  return [...kept, ...here];
}

const isSown = (rows: Schemas["StripPlantingOut"][], waiting: Waiting[], strip: Strip) =>
  sowingOf(
    rows.find((row) => row.strip_id === strip.id),
    waiting,
    strip.id,
  ).some((line) => line.kind === "planting-record" && !line.refused);

type Props = BookProps & { planting: Schemas["PlantingOut"]; driving: Driving; order: Strip[] };

/** Planting day: the setting of this strip, one touch when it is sown, a few when it went otherwise. */
export function SowBook(props: Props) {
  const { trial, strip, outbox, planting, driving, order } = props;
  const { person } = useHere();
  const reader = useReaderUnits(trial);
  const machines = useMachines(trial.workspace_id);
  const [sown, setSown] = useState(() => sownFor(trial.id, reader));
  const [otherwise, setOtherwise] = useState(false);
  // strips touched since the book was opened: a second touch before the screen has followed is the same touch
  const touched = useRef(new Set<string>());
  const row = planting.strips.find((stripPlanting) => stripPlanting.strip_id === strip.id);
  const lines = sowingOf(row, outbox.waiting, strip.id);
  const done = lines.some((line) => line.kind === "planting-record" && !line.refused);
  const treatment = trial.treatments.find((item) => item.id === strip.treatment_id);
  const pass = driving.passOf(strip.order);
  const finished = new Set(
    order.filter((item) => isSown(planting.strips, outbox.waiting, item)).map((item) => item.id),
  );
  const left = order.length - finished.size;
  const then = order[(order.indexOf(strip) + 1) % order.length] as Strip;
  const thenGets = trial.treatments.find((item) => item.id === then.treatment_id);
  const common = { person: person.username, trialId: trial.id, stripId: strip.id, refused: null };

  async function record() {
    if (done || touched.current.has(strip.id)) return;
    touched.current.add(strip.id);
    const at = new Date().toISOString();
    const kept = await outbox.add({
      ...common,
      id: crypto.randomUUID(),
      kind: "sowing",
      made: Date.now(),
      body: {
        strip_id: strip.id,
        sown_at: at,
        way: "first",
        machine_id: sown.machine_id || null,
        lot_id: null,
        setting: sown.settings[strip.treatment_id] ?? "",
        rate: { text: "", unit: "" },
        speed: sown.speed,
        soil: sown.soil,
        weather: sown.weather,
        note: "",
        recorded_at: at,
      },
    });
    if (!kept) touched.current.delete(strip.id);
  }

  async function deviate({ words, ...deviated }: Deviated) {
    const kept = await outbox.add({
      ...common,
      id: crypto.randomUUID(),
      kind: "deviation",
      made: Date.now(),
      words,
      body: { strip_id: strip.id, ...deviated, start: NOWHERE, end: NOWHERE, recorded_at: new Date().toISOString() },
    });
    if (kept) setOtherwise(false);
  }

  async function takeBack(id: string) {
    const line = lines.find((item) => item.id === id);
    if (!line) return;
    touched.current.delete(strip.id);
    if (line.waiting) await outbox.drop(id);
    else
      await outbox.add({
        ...common,
        id: `void:${id}`,
        kind: "void",
        recordKind: line.kind,
        recordId: id,
        version: line.version,
        made: Date.now(),
      } satisfies VoidWaiting);
  }

  /** Buttons change under the thumb: the second half of a double tap belongs to the button before. */
  const once = (act: () => void) => (event: MouseEvent) => {
    if (event.detail <= 1) act();
  };
  const leave = (step: number) => {
    setOtherwise(false);
    props.go(step);
  };
  return (
    <BookFrame
      {...props}
      task="sowing"
      go={leave}
      layer="plan"
      done={finished}
      under={pass && `, pass ${pass.number} ${pass.direction === "up" ? "↑ up" : "↓ back"}`}
    >
      <div className="sheet mt-1.5 p-2 text-center">
        {driving.changesAt(strip.order) && (
          <p className="flex items-center justify-center gap-2 font-semibold">
            <Flag className="h-5 w-5" /> Change the setting
          </p>
        )}
        <p className="tag text-4xl leading-tight">
          {treatment?.letter}: {treatment?.name}
        </p>
        <p>
          {[row?.planned_rate, row?.planned_mass].filter(Boolean).join(", ")}
          {row?.target_depth && `, ${row.target_depth.text} deep`}
        </p>
      </div>
      <HowSown
        key={strip.treatment_id}
        sown={sown}
        treatmentId={strip.treatment_id}
        machines={(machines.data ?? [])
          .filter((machine) => machine.kind === "planter")
          .map((machine): [string, string] => [machine.id, machine.name])}
        soils={(planting.kinds.soil ?? []).map(([key = "", name = ""]): [string, string] => [key, name])}
        reader={reader}
        onChange={(changed) => {
          setSown(changed);
          storeSown(trial.id, changed);
        }}
      />
      <p className="mt-1.5 flex items-center justify-between gap-2">
        <span aria-live="polite" className="font-semibold">
          {left ? `${left} of ${order.length} strips to sow` : "Every strip is sown"}
        </span>
        <label className="flex min-h-12 items-center gap-1 text-sm">
          Driving
          <select
            className="entry"
            value={driving.way}
            onChange={(event) => driving.setWay(event.target.value as typeof driving.way)}
          >
            <option value="as_laid">in field order</option>
            <option value="fewest_changes">fewest changes</option>
          </select>
        </label>
      </p>
      <p className="muted">
        Then strip {then.order}, {thenGets?.letter}: {thenGets?.name}
        {driving.changesAt(then.order) && ", change the setting"}
      </p>
      <BookList label="Sowing of this strip" lines={lines} onTakeBack={(id) => void takeBack(id)} />
      {otherwise ? (
        <OtherwiseForm
          trial={trial}
          strip={strip}
          kinds={planting.kinds.deviation ?? []}
          record={(deviated) => void deviate(deviated)}
          close={() => setOtherwise(false)}
        />
      ) : (
        <div className="mt-2 grid grid-cols-[2fr_3fr] gap-1.5">
          <button type="button" className="plain min-h-20 text-lg" onClick={once(() => setOtherwise(true))}>
            Went otherwise
          </button>
          {done ? (
            <button type="button" className="plain min-h-20 text-xl font-semibold" onClick={once(() => leave(1))}>
              On to the next strip
            </button>
          ) : (
            <button type="button" className="act min-h-20 text-2xl" onClick={once(() => void record())}>
              Sown
            </button>
          )}
        </div>
      )}
    </BookFrame>
  );
}
