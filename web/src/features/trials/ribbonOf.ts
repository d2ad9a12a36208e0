import type { Schemas } from "../../api/client";
import type { Layer, RibbonStrip, Shown } from "../../ui/RibbonCell";

type Row = Schemas["TrialRowOut"];
const LOST = 1;
const DEVIATED = 2;
const NOTED = 4;
const EMPTY = { depth: null, stand: null, estimate: null, yield_: null, net_return: null };

/** Strips and treatments of a trial in a list, as the ribbon draws them: the list carries them in columns. */
export function ribbonOf(trial: Row, layer: Layer): { strips: RibbonStrip[]; treatments: Shown[] } {
  const { ribbon } = trial;
  const strips = ribbon.blocks.map((block, index): RibbonStrip => {
    const at = (column: number[]) => column[index] ?? 0;
    const flags = at(ribbon.flags);
    const value = ribbon.values[index] ?? null;
    return {
      id: `${trial.id}/${index + 1}`,
      order: index + 1,
      block,
      block_name: "",
      treatment_id: String(at(ribbon.planned)),
      received_id: String(at(ribbon.received)),
      main: at(ribbon.main),
      row: at(ribbon.rows),
      column: at(ribbon.columns),
      place: ribbon.places[index] ?? null,
      lost: (flags & LOST) > 0,
      reason: "",
      deviations: flags & DEVIATED ? [""] : [],
      events: flags & NOTED ? [""] : [],
      ...EMPTY,
      ...(layer === "plan" || value === null ? {} : { [layer]: { value, text: String(value) } }),
    };
  });
  const treatments = trial.letters.map((letter, position) => ({
    id: String(position),
    letter,
    position,
    name: trial.treatments[position] ?? "",
  }));
  return { strips, treatments };
}
