/** Ink and hatch of a treatment by its place, the same on ribbon, charts, map and print. */
export function inkClass(position: number): string {
  const place = (position % 8) + 1;
  return `ink-${place}`;
}
export function hatchClass(position: number): string {
  const place = (position % 8) + 1;
  return `ink-${place} hatch hatch-${place}`;
}
