import { useState } from "react";
import { ask, client } from "../../api/client";
import { faultOf } from "../../app/saving";
import table from "./device.json";

type Props = {
  trialId: string;
  strip: number;
  entry: "gross" | "tare" | "moisture";
  unit: string;
  onRead: (text: string) => void;
  open: boolean;
  setOpen: (open: boolean) => void;
};
const KG: Record<string, number> = table.mass_kg;

/** A reading from the scale or the meter: its lines are pasted, or come from the simulated one, and read by one parser. */
export function Instrument({ trialId, strip, entry, unit, onRead, open, setOpen }: Props) {
  const [lines, setLines] = useState("");
  const [said, setSaid] = useState("");
  const instrument = entry === "moisture" ? ("meter" as const) : ("scale" as const);
  const name = instrument === "meter" ? "moisture meter" : "scale";
  if (entry === "tare") return null;
  const path = { trial_id: trialId };

  async function read(text: string) {
    try {
      const result = await ask(
        client.POST("/api/trials/{trial_id}/instrument-lines", { params: { path }, body: { instrument, lines: text } }),
      );
      const value = result.unit === "%" ? Number(result.text) : Number(result.text) / (KG[unit] ?? 1);
      onRead(String(Number(value.toFixed(unit === "t" ? 3 : 1))));
      setSaid(`${result.text} ${result.unit}, ${result.words}`);
      setOpen(false);
    } catch (error) {
      setSaid(faultOf(error).message);
    }
  }
  async function simulate() {
    const seed = 1 + (Date.now() % 100_000);
    try {
      const answer =
        instrument === "meter"
          ? await ask(client.GET("/api/trials/{trial_id}/stand-ins/meter", { params: { path, query: { seed } } }))
          : await ask(
              client.GET("/api/trials/{trial_id}/stand-ins/scale", { params: { path, query: { strip, seed } } }),
            );
      setLines(answer.lines);
      await read(answer.lines);
    } catch (error) {
      setSaid(faultOf(error).message);
    }
  }
  return (
    <div className="mt-1">
      <div className="flex flex-wrap items-center gap-2">
        <button type="button" className="plain min-h-12" aria-expanded={open} onClick={() => setOpen(!open)}>
          From the {name}
        </button>
        {said && (
          <span role="status" className="text-sm">
            {said}
          </span>
        )}
      </div>
      {open && (
        <div className="mt-1">
          <label>
            Lines the {name} sent
            <textarea
              className="entry font-mono"
              rows={3}
              value={lines}
              onChange={(event) => setLines(event.target.value)}
            />
          </label>
          <div className="mt-1 flex gap-2">
            <button type="button" className="plain min-h-12" disabled={!lines.trim()} onClick={() => void read(lines)}>
              Read them
            </button>
            <button type="button" className="plain min-h-12" onClick={() => void simulate()}>
              Take the simulated {name}
            </button>
          </div>
        </div>
      )}
    </div>
  );
}
