import { useQuery } from "@tanstack/react-query";
import { ask, client, type Schemas } from "../../../api/client";
import { Caution } from "../Columns";

/** Depth, stand and gaps by row of the machine, drawn as the machine from behind. */
export function Openers({ trialId }: { trialId: string }) {
  const looks = useQuery({
    queryKey: ["openers", trialId],
    queryFn: () => ask(client.GET("/api/trials/{trial_id}/openers", { params: { path: { trial_id: trialId } } })),
  });
  if (!looks.data?.length)
    return (
      <p className="muted">
        No depth or count has its row of the machine yet. Type the row, from the left as seen from behind, beside the
        depth or the count in the field book.
      </p>
    );
  return (
    <>
      {looks.data.map((look) => (
        <section key={look.what} aria-label={`${look.name} by row of the machine`} className="mt-4">
          <h3>{look.name} by row of the machine</h3>
          <p>{look.problem || look.words}</p>
          {look.openers.length > 0 && <Machine look={look} />}
        </section>
      ))}
      <Caution>Stop the engine and wait until every part rests before anybody clears or sets an opener.</Caution>
    </>
  );
}

const WIDTH = 720;
const HEIGHT = 170;
const BAR = 42;

/** A toolbar with its openers; how far each reaches down is its mean, those that stand apart are filled. */
export function Machine({ look }: { look: Schemas["OpenersOut"] }) {
  const most = Math.max(...look.openers.map((opener) => opener.value), 1e-9);
  const step = (WIDTH - 40) / Math.max(...look.openers.map((opener) => opener.opener));
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="block h-auto w-full max-w-[760px]"
      role="img"
      aria-label={`${look.name}: ${look.openers.length} rows of the machine from behind`}
    >
      <rect x="10" y={BAR - 12} width={WIDTH - 20} height="12" fill="currentColor" opacity="0.25" />
      {look.openers.map((opener) => {
        const x = 20 + (opener.opener - 0.5) * step;
        const reach = (80 * opener.value) / most;
        const width = Math.min(step * 0.55, 26);
        return (
          <g key={opener.opener}>
            <text
              x={x}
              y={BAR - 18}
              textAnchor="middle"
              fontSize="12"
              fill="currentColor"
              fontWeight={opener.apart ? 700 : 400}
            >
              {opener.opener}
            </text>
            <path
              d={`M${x - width / 2} ${BAR}h${width}v${Math.max(reach - 6, 0)}l${-width / 2} 6l${-width / 2} -6z`}
              fill={opener.apart ? "var(--color-accent)" : "none"}
              stroke="currentColor"
              strokeWidth={opener.apart ? 2.5 : 1.2}
            >
              <title>{`Row ${opener.opener}: ${opener.mean}, ${opener.off} than the others, chance of being luck ${opener.luck}`}</title>
            </path>
            <text x={x} y={BAR + reach + 16} textAnchor="middle" fontSize="11" fill="currentColor">
              {opener.mean.split(" ")[0]}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
