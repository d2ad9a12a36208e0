import type { RibbonStrip } from "./RibbonCell";

export type Spot = { left: number; width: number; top: number; height: number };

/** Where each strip lies on the ribbon, in percent of its box, when all of them lie on real ground. */
export function spotsOf(strips: RibbonStrip[]): Map<string, Spot> | null {
  if (!strips.length || strips.some((strip) => strip.place?.length !== 4)) return null;
  const edges = strips.map((strip) => strip.place as [number, number, number, number]);
  const left = Math.min(...edges.map((edge) => edge[0]));
  const near = Math.min(...edges.map((edge) => edge[1]));
  const wide = Math.max(...edges.map((edge) => edge[2])) - left || 1;
  const long = Math.max(...edges.map((edge) => edge[3])) - near || 1;
  const spots = new Map<string, Spot>();
  strips.forEach((strip, index) => {
    const [u0, v0, u1, v1] = edges[index] as [number, number, number, number];
    spots.set(strip.id, {
      left: (100 * (u0 - left)) / wide,
      width: (100 * (u1 - u0)) / wide,
      top: 100 - (100 * (v1 - near)) / long,
      height: (100 * (v1 - v0)) / long,
    });
  });
  return spots;
}

/** The stretch of a block over the ribbon's width, and the top of its highest strip. */
export function stretchOf(members: RibbonStrip[], spots: Map<string, Spot>): Spot {
  const result = members.flatMap((strip) => spots.get(strip.id) ?? []);
  const left = Math.min(...result.map((spot) => spot.left));
  const top = Math.min(...result.map((spot) => spot.top));
  return {
    left,
    top,
    width: Math.max(...result.map((spot) => spot.left + spot.width)) - left,
    height: Math.max(...result.map((spot) => spot.top + spot.height)) - top,
  };
}
