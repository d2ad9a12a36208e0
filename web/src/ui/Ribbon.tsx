import { type KeyboardEvent, useCallback, useMemo, useRef } from "react";
import { type Layer, RibbonCell, type RibbonStrip, type Shown } from "./RibbonCell";
import { type Spot, spotsOf, stretchOf } from "./ribbonPlaces";

export type { Layer } from "./RibbonCell";
export const LAYERS: [Layer, string][] = [
  ["plan", "Plan"],
  ["depth", "Depth"],
  ["stand", "Stand"],
  ["estimate", "Estimate"],
  ["yield_", "Yield"],
  ["net_return", "Net return"],
];

type Props<S extends RibbonStrip> = {
  strips: S[];
  treatments: Shown[];
  layer?: Layer;
  selected?: string | null;
  onSelect?: (strip: S) => void;
  small?: boolean;
  blind?: boolean;
  /** Strips that are done in the task at hand. */
  done?: Set<string>;
};

const readingOf = (strip: RibbonStrip, layer: Layer) => (layer === "plan" ? null : (strip[layer]?.value ?? null));

/** Share of the scale that a strip's value fills: the lowest stands at a fifth, so that differences show. */
function heights(strips: RibbonStrip[], layer: Layer): Map<string, number> {
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
export function rangeWords(strips: RibbonStrip[], layer: Layer): string {
  if (layer === "plan") return "";
  const shown = strips.flatMap((strip) => strip[layer] ?? []).sort((a, b) => a.value - b.value);
  const [low, high] = [shown[0], shown.at(-1)];
  return low && high ? `Columns span ${low.text} to ${high.text}, not from zero` : "";
}

/**
 * The trial's strips in field order, to scale where they lie on real ground: blocks bracketed, treatment by
 * letter, hatch and ink, a data layer over it.
 */
export function Ribbon<S extends RibbonStrip>({
  strips,
  treatments,
  layer = "plan",
  selected,
  onSelect,
  small = false,
  blind = false,
  done,
}: Props<S>) {
  const box = useRef<HTMLDivElement>(null);
  const latest = useRef({ strips, onSelect });
  latest.current = { strips, onSelect };
  const byId = useMemo(() => new Map(treatments.map((treatment) => [treatment.id, treatment])), [treatments]);
  const shares = useMemo(() => heights(strips, layer), [strips, layer]);
  const spots = useMemo(() => spotsOf(strips), [strips]);
  const blocks = useMemo(
    () =>
      [...new Set(strips.map((strip) => strip.block))].map((block) => strips.filter((strip) => strip.block === block)),
    [strips],
  );
  const current = strips.some((strip) => strip.id === selected) ? selected : strips[0]?.id;
  // the same for ever, so that a strip is drawn again only when something of its own changes
  const choose = useCallback((strip: RibbonStrip) => latest.current.onSelect?.(strip as S), []);
  const step = useCallback((event: KeyboardEvent, strip: RibbonStrip) => {
    const way = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    const next = way && latest.current.strips.find((other) => other.order === strip.order + way);
    if (!next) return;
    event.preventDefault();
    latest.current.onSelect?.(next);
    box.current?.querySelector<HTMLElement>(`[data-strip="${next.id}"]`)?.focus();
  }, []);

  if (!strips.length)
    return <p className="muted py-2">No strips yet. Draw the layout, and the ribbon shows them here.</p>;
  const cell = (strip: RibbonStrip) => (
    <RibbonCell
      key={strip.id}
      strip={strip}
      treatment={byId.get(strip.received_id)}
      layer={layer}
      share={shares.get(strip.id)}
      spot={spots?.get(strip.id)}
      selected={strip.id === selected}
      reachable={strip.id === current}
      small={small}
      blind={blind}
      done={done?.has(strip.id) ?? false}
      choose={onSelect ? choose : null}
      step={step}
    />
  );
  if (!spots)
    return (
      <div ref={box} role="group" aria-label="Strips in field order" className="flex gap-1 overflow-x-auto pb-0.5">
        {blocks.map((members) => (
          <div key={members[0]?.block} className="min-w-0" style={{ flex: members.length }}>
            {!small && <BlockName name={members[0]?.block_name ?? ""} />}
            <div className="flex">{members.map(cell)}</div>
          </div>
        ))}
      </div>
    );
  const rows = Math.max(...strips.map((strip) => strip.row), 1);
  const columns = new Set(strips.map((strip) => strip.column)).size;
  return (
    <div ref={box} role="group" aria-label="Strips in field order" className="overflow-x-auto pb-0.5">
      <div className="relative" style={{ minWidth: `${columns * (small ? 1 : 1.5)}rem` }}>
        {!small && <Brackets blocks={blocks} spots={spots} rows={rows} />}
        <div className="relative" style={{ height: `${small ? 2.75 : Math.max(5, 2.6 * rows)}rem` }}>
          {strips.map(cell)}
        </div>
      </div>
    </div>
  );
}

const BRACKET = "muted truncate border-x-2 border-t-2 border-current px-1 text-center text-xs leading-4";

function BlockName({ name }: { name: string }) {
  return <div className={`${BRACKET} mb-0.5`}>{name}</div>;
}

/** Blocks named over their stretch of the ribbon; of several rows only those at the far end. */
function Brackets({ blocks, spots, rows }: { blocks: RibbonStrip[][]; spots: Map<string, Spot>; rows: number }) {
  const stretches = blocks.map((members) => ({ first: members[0], stretch: stretchOf(members, spots) }));
  return (
    <div className="relative h-5" aria-hidden="true">
      {stretches
        .filter(({ stretch }) => rows === 1 || stretch.top < 1)
        .map(({ first, stretch }) => (
          <div
            key={first?.block}
            className={`${BRACKET} absolute bottom-0.5`}
            style={{ left: `${stretch.left}%`, width: `calc(${stretch.width}% - 4px)`, marginLeft: "2px" }}
          >
            {first?.block_name}
          </div>
        ))}
    </div>
  );
}
