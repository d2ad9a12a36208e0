import { type CSSProperties, type KeyboardEvent, useRef } from "react";
import type { Strip, Treatment } from "../api/client";
import { hatchClass } from "./inks";
import { spotsOf, stretchOf } from "./ribbonPlaces";

export type Layer = "plan" | "stand" | "yield_" | "net_return";
export const LAYERS: [Layer, string][] = [
  ["plan", "Plan"],
  ["stand", "Stand"],
  ["yield_", "Yield"],
  ["net_return", "Net return"],
];

type Props = {
  strips: Strip[];
  treatments: Pick<Treatment, "id" | "letter" | "position" | "name">[];
  layer?: Layer;
  selected?: string | null;
  onSelect?: (strip: Strip) => void;
  small?: boolean;
  blind?: boolean;
};

const readingOf = (strip: Strip, layer: Layer) => (layer === "plan" ? null : (strip[layer]?.value ?? null));

/** Share of the scale that a strip's value fills: the lowest stands at a fifth, so that differences show. */
function heights(strips: Strip[], layer: Layer): Map<string, number> {
  const values = strips.map((strip) => readingOf(strip, layer)).filter((value): value is number => value !== null);
  const low = Math.min(...values);
  const span = Math.max(...values) - low || 1;
  const shares = new Map<string, number>();
  for (const strip of strips) {
    const value = readingOf(strip, layer);
    if (value !== null) shares.set(strip.id, 0.2 + (0.75 * (value - low)) / span);
  }
  return shares;
}

/** What the columns span, for they do not start at zero. */
export function rangeWords(strips: Strip[], layer: Layer): string {
  if (layer === "plan") return "";
  const shown = strips.flatMap((strip) => strip[layer] ?? []).sort((a, b) => a.value - b.value);
  const [low, high] = [shown[0], shown.at(-1)];
  return low && high ? `Columns span ${low.text} to ${high.text}, not from zero` : "";
}

function words(strip: Strip, treatment: Props["treatments"][number] | undefined, layer: Layer, blind: boolean): string {
  const parts = [`Strip ${strip.order}`, strip.block_name];
  if (!blind && treatment) parts.push(`${treatment.letter}, ${treatment.name}`);
  if (strip.lost) parts.push(`lost: ${strip.reason}`);
  if (strip.received_id !== strip.treatment_id && !blind) parts.push(`sown otherwise: ${strip.reason}`);
  const shown = layer === "plan" ? null : strip[layer];
  if (layer !== "plan") parts.push(shown ? shown.text : "nothing yet");
  return parts.join(", ");
}

/** The trial's strips in field order: blocks bracketed, treatment by letter, hatch and ink, a data layer over it. */
export function Ribbon({ strips, treatments, layer = "plan", selected, onSelect, small, blind = false }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const byId = new Map(treatments.map((treatment) => [treatment.id, treatment]));
  const shares = heights(strips, layer);
  const blocks = [...new Set(strips.map((strip) => strip.block))].map((block) =>
    strips.filter((strip) => strip.block === block),
  );
  const current = strips.some((strip) => strip.id === selected) ? selected : strips[0]?.id;

  function onKey(event: KeyboardEvent, strip: Strip) {
    const step = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    const next = step && strips.find((other) => other.order === strip.order + step);
    if (!next) return;
    event.preventDefault();
    onSelect?.(next);
    box.current?.querySelector<HTMLElement>(`[data-strip="${next.id}"]`)?.focus();
  }

  if (!strips.length)
    return <p className="muted py-2">No strips yet. Draw the layout, and the ribbon shows them here.</p>;
  const tall = small ? "h-11" : "h-[4.5rem]";
  const spots = spotsOf(strips);
  const rows = Math.max(...strips.map((strip) => strip.row), 1);
  const mainOf = (strip: Strip) => (strip.main % 2 === 1 ? "border-t-4 border-t-base-content" : "");

  function draw(strip: Strip, place: string, style?: CSSProperties) {
    const treatment = byId.get(strip.received_id);
    const share = shares.get(strip.id);
    const inner = (
      <>
        {share !== undefined && (
          <span
            className={`absolute inset-x-0 bottom-0 border-t-2 ${blind ? "bg-base-300" : `${hatchClass(treatment?.position ?? 0)} border-(--ink)`}`}
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
    const plan = layer === "plan" && !blind ? hatchClass(treatment?.position ?? 0) : "bg-(--paper)";
    const look = `grid place-items-center border border-base-content/60 ${place} ${plan} ${mainOf(strip)} ${strip.lost ? "opacity-60" : ""}`;
    if (!onSelect)
      return (
        <div key={strip.id} className={look} style={style}>
          {inner}
        </div>
      );
    return (
      <button
        key={strip.id}
        type="button"
        data-strip={strip.id}
        tabIndex={strip.id === current ? 0 : -1}
        aria-pressed={strip.id === selected}
        title={words(strip, treatment, layer, blind)}
        className={`${look} cursor-pointer ${strip.id === selected ? "z-10 outline-4 outline-accent" : ""}`}
        style={style}
        onClick={() => onSelect(strip)}
        onKeyDown={(event) => onKey(event, strip)}
      >
        <span className="sr-only">{words(strip, treatment, layer, blind)}</span>
        <span aria-hidden="true" className="contents">
          {inner}
        </span>
      </button>
    );
  }

  if (spots) {
    const height = small ? 2.75 : Math.max(5, 2.6 * rows);
    const columns = new Set(strips.map((strip) => strip.column)).size;
    return (
      <div ref={box} role="group" aria-label="Strips in field order" className="overflow-x-auto pb-0.5">
        <div className="relative" style={{ minWidth: `${columns * 1.5}rem` }}>
          {!small && (
            <div className="relative h-5" aria-hidden="true">
              {blocks
                .filter((members) => rows === 1 || stretchOf(members, spots).top < 1)
                .map((members) => {
                  const stretch = stretchOf(members, spots);
                  return (
                    <div
                      key={members[0]?.block}
                      className="muted absolute bottom-0.5 truncate border-x-2 border-t-2 border-current px-1 text-center text-xs leading-4"
                      style={{ left: `${stretch.left}%`, width: `calc(${stretch.width}% - 4px)`, marginLeft: "2px" }}
                    >
                      {members[0]?.block_name}
                    </div>
                  );
                })}
            </div>
          )}
          <div className="relative" style={{ height: `${height}rem` }}>
            {strips.map((strip) => {
              const spot = spots.get(strip.id);
              return draw(strip, "absolute", {
                left: `${spot?.left}%`,
                width: `${spot?.width}%`,
                top: `${spot?.top}%`,
                height: `${spot?.height}%`,
              });
            })}
          </div>
        </div>
      </div>
    );
  }
  return (
    <div ref={box} role="group" aria-label="Strips in field order" className="flex gap-1 overflow-x-auto pb-0.5">
      {blocks.map((members) => (
        <div key={members[0]?.block} className="min-w-0" style={{ flex: members.length }}>
          {!small && (
            <div className="muted mb-0.5 truncate border-x-2 border-t-2 border-current px-1 text-center text-xs leading-4">
              {members[0]?.block_name}
            </div>
          )}
          <div className="flex">{members.map((strip) => draw(strip, `relative min-w-6 flex-1 ${tall}`))}</div>
        </div>
      ))}
    </div>
  );
}
