import { scaleLinear } from "d3-scale";
import type { Schemas } from "../../api/client";

const WIDE = 620;
const BIN = 2.5;
const TALL = 62;

/** What samples of a simulated crop say of its true yield: drawn ones around it, picked ones beside it. */
export function PickingPlot({ picking }: { picking: Schemas["PickingOut"] }) {
  const all = [...picking.drawn, ...picking.picked, 100];
  const x = scaleLinear([Math.min(...all) - BIN, Math.max(...all) + BIN], [120, WIDE - 70]).nice(6);
  const rows: [string, number[], number, boolean][] = [
    ["drawn", picking.drawn, picking.drawn_mean, false],
    ["best looking", picking.picked, picking.picked_mean, true],
  ];
  const bottom = 10 + rows.length * (TALL + 12);
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${bottom + 40}`}
      className="block h-auto w-full max-w-[620px]"
      role="img"
      aria-label={`Simulated samples in percent of the true yield: drawn ${picking.drawn_mean.toFixed(0)}, best looking ${picking.picked_mean.toFixed(0)}`}
    >
      {rows.map(([name, values, mean, hollow], row) => {
        const base = 10 + (row + 1) * TALL + row * 12;
        const bins = tally(values);
        const most = Math.max(...bins.values());
        return (
          <g key={name}>
            <text x="108" y={base - 4} textAnchor="end" fontSize="14" fill="currentColor">
              {name}
            </text>
            {[...bins].map(([bin, number]) => (
              <rect
                key={bin}
                x={x(bin * BIN) + 0.5}
                width={x(BIN) - x(0) - 1}
                y={base - (TALL * number) / most}
                height={(TALL * number) / most}
                fill={hollow ? "var(--paper)" : "currentColor"}
                stroke="currentColor"
                opacity="0.75"
              >
                <title>{`${bin * BIN} to ${(bin + 1) * BIN} % of the true yield: ${number} samples`}</title>
              </rect>
            ))}
            <line x1="120" x2={WIDE - 70} y1={base} y2={base} stroke="currentColor" />
            <path
              d={`M${x(mean)} ${base}v${-TALL - 4}`}
              stroke="currentColor"
              strokeWidth="2.5"
              strokeDasharray="4 3"
            />
            <text x={WIDE - 60} y={base - 4} fontSize="14" fontWeight="700" fill="currentColor">
              {mean.toFixed(0)} %
            </text>
          </g>
        );
      })}
      <line x1={x(100)} x2={x(100)} y1="4" y2={bottom} stroke="currentColor" strokeWidth="1.5" />
      <g fontSize="13" fill="currentColor">
        {x.ticks(6).map((tick) => (
          <text key={tick} x={x(tick)} y={bottom + 16} textAnchor="middle">
            {tick}
          </text>
        ))}
        <text x={WIDE / 2 + 50} y={bottom + 34} textAnchor="middle">
          what a sample says, in percent of the true yield
        </text>
      </g>
    </svg>
  );
}

function tally(values: number[]): Map<number, number> {
  const bins = new Map<number, number>();
  for (const value of values) {
    const bin = Math.floor(value / BIN);
    bins.set(bin, (bins.get(bin) ?? 0) + 1);
  }
  return bins;
}
