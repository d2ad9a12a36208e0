import { useSearchParams } from "react-router";
import { useCalculators } from "../../api/queries";
import { useHere } from "../../app/Gate";
import { Calculator } from "../../ui/Calculator";
import { useReaderUnits } from "../../ui/readerUnits";
import { Waiting } from "../../ui/Waiting";

/** Every calculator without a trial. */
export function Calculators() {
  const { workspace } = useHere();
  const reader = useReaderUnits();
  const bench = useCalculators(workspace.id);
  const [search, setSearch] = useSearchParams();
  const entry = bench.data?.find((item) => item.key === search.get("of")) ?? bench.data?.[0];
  const groups = [...new Set(bench.data?.map((item) => item.group))];
  return (
    <div className="grid gap-6 md:grid-cols-[15rem_1fr]">
      <nav aria-label="Calculators">
        <h1 className="mb-2">Bench</h1>
        <Waiting query={bench} />
        {groups.map((group) => (
          <div key={group}>
            <h3 className="mt-2">{group}</h3>
            <ul>
              {bench.data
                ?.filter((item) => item.group === group)
                .map((item) => (
                  <li key={item.key}>
                    <button
                      type="button"
                      aria-current={item.key === entry?.key}
                      className={`block w-full border-l-4 px-2 py-0.5 text-left ${item.key === entry?.key ? "border-accent bg-(--paper) font-semibold" : "border-transparent hover:bg-base-200"}`}
                      onClick={() => setSearch({ of: item.key })}
                    >
                      {item.title}
                    </button>
                  </li>
                ))}
            </ul>
          </div>
        ))}
      </nav>
      {entry && (
        <section aria-labelledby="calculator">
          <h2 id="calculator" className="mb-2">
            {entry.title}
          </h2>
          <Calculator
            key={`${entry.key} ${reader.own.join()}`}
            workspaceId={workspace.id}
            entry={entry}
            crop={workspace.crops?.[0]?.key ?? "winter_wheat"}
            reader={reader}
          />
        </section>
      )}
    </div>
  );
}
