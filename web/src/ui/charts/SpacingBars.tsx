const BIN = 0.25;
const WIDTH = 320;

type Props = { numbers: number[]; small?: boolean };

/** Spacings by size in spacings wanted: doubles hollow to the left of the first line, skips to the right of the second. */
export function SpacingBars({ numbers, small = false }: Props) {
  const height = small ? 54 : 120;
  const bottom = height - 16;
  const most = Math.max(...numbers, 1);
  const wide = WIDTH / Math.max(numbers.length, 8);
  const at = (spacings: number) => (spacings / BIN) * wide;
  const kind = (bin: number) => ((bin + 1) * BIN <= 0.5 ? "doubles" : bin * BIN >= 1.5 ? "skips" : "singles");
  const tally = (name: string) => numbers.reduce((sum, number, bin) => sum + (kind(bin) === name ? number : 0), 0);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${height}`}
      className="mx-auto block h-auto w-full max-w-[520px]"
      role="img"
      aria-label={`Spacings: ${tally("doubles")} doubles, ${tally("singles")} singles, ${tally("skips")} skips`}
    >
      {numbers.map((number, bin) => {
        const tall = ((bottom - 12) * number) / most;
        return (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: a class is its place
            key={bin}
            x={bin * wide + 1}
            y={bottom - tall}
            width={wide - 2}
            height={tall}
            fill={kind(bin) === "singles" ? "currentColor" : "var(--paper)"}
            strokeWidth="1.5"
            stroke="currentColor"
          >
            <title>{`${(bin * BIN).toFixed(2)} to ${((bin + 1) * BIN).toFixed(2)} spacings wanted: ${number}`}</title>
          </rect>
        );
      })}
      <line x1="0" x2={WIDTH} y1={bottom} y2={bottom} stroke="currentColor" />
      {[0.5, 1.5].map((limit) => (
        <line
          key={limit}
          x1={at(limit)}
          x2={at(limit)}
          y1="8"
          y2={bottom}
          stroke="currentColor"
          strokeDasharray="3 3"
        />
      ))}
      <g fontSize="10" fill="currentColor">
        <text x={at(0.25)} y={height - 4} textAnchor="middle">
          doubles
        </text>
        <text x={at(1)} y={height - 4} textAnchor="middle">
          1 × spacing wanted
        </text>
        <text x={at(1.5) + 4} y={height - 4}>
          skips
        </text>
      </g>
    </svg>
  );
}
