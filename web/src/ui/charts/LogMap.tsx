import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";

type Picture = Schemas["LogPictureOut"];
const EDGE = 22;
const NAMES = 40; // room for the numbers of the strips
const LOWEST = 170;
const TALLEST = 380;

/** Places on the page for metres along and across; across may be stretched so that strips can be told apart. */
export function framed(picture: Picture, wide: number) {
  const corners = picture.outlines.flatMap((outline) => outline.ring);
  const xs = corners.map(([x = 0]) => x);
  const ys = corners.map(([, y = 0]) => y);
  const [left, right, low, high] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const scale = (wide - NAMES - EDGE) / Math.max(right - left, 1);
  const tall = Math.min(Math.max((high - low) * scale + 2 * EDGE, LOWEST), TALLEST);
  const across = (tall - 2 * EDGE) / Math.max(high - low, 1);
  return {
    tall,
    stretched: across > 1.5 * scale,
    at: (x: number, y: number): [number, number] => [NAMES + (x - left) * scale, EDGE + (high - y) * across],
  };
}

/** Every reading on the strips: those that stand in tones of yield, what the chosen step dropped marked out. */
export function LogMap(props: { picture: Picture; shown: number; name: string; theme: string }) {
  const { picture, shown, name, theme } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [wide, setWide] = useState(760);
  useEffect(() => {
    const own = canvas.current?.parentElement;
    if (!own) return;
    const watch = new ResizeObserver(() => setWide(Math.max(own.clientWidth, 300)));
    watch.observe(own);
    return () => watch.disconnect();
  }, []);
  const frame = framed(picture, wide);
  const marked = picture.dropped.filter((item) => item === shown).length;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the frame follows picture and width; another theme has other inks
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!canvas.current || !context) return;
    draw(context, picture, shown, frame.at, getComputedStyle(canvas.current), wide, frame.tall);
  }, [picture, shown, wide, theme]);
  return (
    <figure className="mt-3">
      <canvas
        ref={canvas}
        role="img"
        aria-label={`Map of ${picture.drawn} of ${picture.of} readings on the strips; ${marked} drawn that the step ${name} dropped`}
        style={{ width: "100%", height: frame.tall }}
        className="block border border-base-content bg-(--paper)"
      />
      <figcaption className="muted mt-1 text-sm">
        Dots: readings that stand, the stronger the higher the yield.{" "}
        <b className="text-accent">Squares: dropped by {name}.</b> Small crosses: dropped by other steps.
        {picture.drawn < picture.of && ` ${picture.drawn} of ${picture.of} readings are drawn.`}
        {frame.stretched && " Across the strips the map is stretched."}
      </figcaption>
    </figure>
  );
}

function draw(
  context: CanvasRenderingContext2D,
  picture: Picture,
  shown: number,
  at: (x: number, y: number) => [number, number],
  style: CSSStyleDeclaration,
  wide: number,
  tall: number,
) {
  const dots = window.devicePixelRatio || 1;
  context.canvas.width = Math.round(wide * dots);
  context.canvas.height = Math.round(tall * dots);
  context.scale(dots, dots);
  const ink = style.color;
  context.strokeStyle = ink;
  context.fillStyle = ink;
  context.lineWidth = 1;
  context.font = "600 13px sans-serif";
  context.textBaseline = "middle";
  picture.along.forEach((along, place) => {
    const [x, y] = at(along, picture.across[place] ?? 0);
    const dropped = picture.dropped[place];
    if (dropped === 0) {
      context.globalAlpha = 0.18 + 0.75 * (picture.tone[place] ?? 0);
      context.fillRect(x - 1.4, y - 1.4, 2.8, 2.8);
    } else if (dropped !== shown) {
      context.globalAlpha = 0.45;
      context.beginPath();
      context.moveTo(x - 2, y - 2);
      context.lineTo(x + 2, y + 2);
      context.moveTo(x + 2, y - 2);
      context.lineTo(x - 2, y + 2);
      context.stroke();
    }
  });
  context.globalAlpha = 1;
  context.fillStyle = style.getPropertyValue("--color-accent") || ink;
  picture.along.forEach((along, place) => {
    if (picture.dropped[place] !== shown) return;
    const [x, y] = at(along, picture.across[place] ?? 0);
    context.fillRect(x - 2.6, y - 2.6, 5.2, 5.2);
  });
  for (const outline of picture.outlines) {
    context.beginPath();
    for (const [x = 0, y = 0] of outline.ring) context.lineTo(...at(x, y));
    context.closePath();
    context.stroke();
    const places = outline.ring.map(([x = 0, y = 0]) => at(x, y));
    const left = Math.min(...places.map(([x]) => x));
    const middle = places.reduce((sum, [, y]) => sum + y, 0) / places.length;
    const name = `${outline.order}${outline.letter}`;
    const from = Math.max(left - 36, 1);
    context.fillStyle = style.getPropertyValue("--paper") || "white"; // a name stays readable where readings lie under it
    context.fillRect(from, middle - 7, context.measureText(name).width + 4, 14);
    context.fillStyle = ink;
    context.fillText(name, from + 2, middle);
  }
}
