import { type KeyboardEvent, memo } from "react";
import type { Strip, Treatment } from "../api/client";
import { hatchClass } from "./inks";
import type { Spot } from "./ribbonPlaces";

/** What of a strip the ribbon draws; lists have no more than this. */
export type RibbonStrip = Pick<
  Strip,
  | "id"
  | "order"
  | "block"
  | "block_name"
  | "treatment_id"
  | "received_id"
  | "main"
  | "row"
  | "column"
  | "place"
  | "lost"
  | "reason"
  | "deviations"
  | "events"
  | Exclude<Layer, "plan">
> &
  Partial<Pick<Strip, "counts">>;
export type Layer = "plan" | "depth" | "stand" | "estimate" | "yield_" | "net_return";
export type Shown = Pick<Treatment, "id" | "letter" | "position" | "name">;

type Props = {
  strip: RibbonStrip;
  treatment: Shown | undefined;
  layer: Layer;
  /** Share of the scale its value fills; undefined without a value. */
  share: number | undefined;
  spot: Spot | undefined;
  selected: boolean;
  /** The one strip that Tab reaches. */
  reachable: boolean;
  small: boolean;
  blind: boolean;
  /** Done in the task at hand, such as sown. */
  done: boolean;
  choose: ((strip: RibbonStrip) => void) | null;
  step: (event: KeyboardEvent, strip: RibbonStrip) => void;
};

export function wordsOf(strip: RibbonStrip, treatment: Shown | undefined, layer: Layer, blind: boolean): string {
  const parts = [`Strip ${strip.order}`, strip.block_name];
  if (!blind && treatment) parts.push(`${treatment.letter}, ${treatment.name}`);
  if (strip.lost) parts.push(`lost: ${strip.reason}`);
  if (strip.received_id !== strip.treatment_id && !blind) parts.push(`sown otherwise: ${strip.reason}`);
  if (!blind) parts.push(...strip.deviations.map((deviation) => deviation.toLowerCase()));
  parts.push(...strip.events);
  const shown = layer === "plan" ? null : strip[layer];
  const without = layer === "stand" && (strip.counts ?? 0) > 0 ? "counted at another visit" : "nothing yet";
  if (layer !== "plan") parts.push(shown ? `${layer === "estimate" ? "estimated " : ""}${shown.text}` : without);
  return parts.join(", ");
}

/** One strip on the ribbon; drawn again only when something of its own has changed. */
export const RibbonCell = memo(function RibbonCell(props: Props) {
  const { strip, treatment, layer, spot, selected, small, blind, choose } = props;
  const plan = layer === "plan" && !blind ? hatchClass(treatment?.position ?? 0) : "bg-(--paper)";
  const place = spot ? "absolute" : `relative min-w-6 flex-1 ${small ? "h-11" : "h-[4.5rem]"}`;
  const main = strip.main % 2 === 1 ? "border-t-4 border-t-base-content" : "";
  const look = `grid place-items-center border border-base-content/60 ${place} ${plan} ${main} ${strip.lost ? "opacity-60" : ""}`;
  const style = spot && {
    left: `${spot.left}%`,
    width: `${spot.width}%`,
    top: `${spot.top}%`,
    height: `${spot.height}%`,
  };
  if (!choose)
    return (
      <div className={look} style={style}>
        <Inside {...props} />
      </div>
    );
  const words = `${wordsOf(strip, treatment, layer, blind)}${props.done ? ", done" : ""}`;
  return (
    <button
      type="button"
      data-strip={strip.id}
      tabIndex={props.reachable ? 0 : -1}
      aria-pressed={selected}
      title={words}
      className={`${look} cursor-pointer ${selected ? "z-10 outline-4 outline-accent" : ""}`}
      style={style}
      onClick={() => choose(strip)}
      onKeyDown={(event) => props.step(event, strip)}
    >
      <span className="sr-only">{words}</span>
      <span aria-hidden="true" className="contents">
        <Inside {...props} />
      </span>
    </button>
  );
});

function Inside({ strip, treatment, layer, share, small, blind, done }: Props) {
  return (
    <>
      {share !== undefined && (
        <span
          className={`absolute inset-x-0 bottom-0 border-t-2 ${layer === "estimate" ? "border-dashed" : ""} ${blind ? "bg-base-300" : `${hatchClass(treatment?.position ?? 0)} border-(--ink)`}`}
          style={{ height: `${share * 100}%` }}
        />
      )}
      {!small && (
        <span className="absolute left-0 top-0 z-[1] bg-(--paper) px-0.5 text-[0.75rem] leading-tight">
          {strip.order}
        </span>
      )}
      {!blind && treatment && (
        <span className={`stake relative ${small ? "text-xs" : "text-sm"} ink-${(treatment.position % 8) + 1}`}>
          {treatment.letter}
          {strip.received_id !== strip.treatment_id ? "!" : ""}
        </span>
      )}
      {done && <span className="absolute inset-x-0 bottom-0 z-[1] h-2 border-t border-(--paper) bg-base-content" />}
      {!blind && strip.deviations.length > 0 && (
        <svg className="absolute right-0 top-0 z-[1] size-3.5" viewBox="0 0 10 10" aria-hidden="true">
          <path d="M0 0H10V10Z" fill="currentColor" stroke="var(--paper)" />
        </svg>
      )}
      {strip.events.length > 0 && (
        <svg className="absolute left-0 bottom-0 z-[1] size-3.5" viewBox="0 0 10 10" aria-hidden="true">
          <path d="M0.5 0.5H9.5L5 9.5Z" fill="var(--paper)" stroke="currentColor" strokeWidth="1.4" />
        </svg>
      )}
      {strip.lost && (
        <svg
          className="absolute inset-0 h-full w-full"
          viewBox="0 0 10 10"
          preserveAspectRatio="none"
          aria-hidden="true"
        >
          <path d="M0 0L10 10M10 0L0 10" stroke="currentColor" strokeWidth="0.6" />
        </svg>
      )}
    </>
  );
}
