/** A percent with a true minus sign, a plus where it is more, and neither where it rounds to nought. */
export function signedPct(value: number, decimals = 0): string {
  const size = Math.abs(value).toFixed(decimals);
  const sign = Number(size) === 0 ? "" : value > 0 ? "+" : "\u2212";
  return `${sign}${size}\u00a0%`;
}
