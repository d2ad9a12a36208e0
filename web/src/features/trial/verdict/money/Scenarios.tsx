import type { Schemas } from "../../../../api/client";

/** Comparisons at other prices, one line each. */
export function Lines({ lines }: { lines: Schemas["ScenarioLineOut"][] }) {
  return (
    <ul>
      {lines.map((line) => (
        <li key={line.name}>
          {line.name}: <b>{line.estimate.text}</b> ({line.lower.text} to {line.upper.text}), {line.call_words}
        </li>
      ))}
    </ul>
  );
}

export function Scenarios({ money }: { money: Schemas["MoneyOut"] }) {
  if (!money.scenarios.length) return null;
  return (
    <section aria-label="Scenarios" className="mt-4">
      <h3>Scenarios</h3>
      {money.scenarios.map((scenario) => (
        <div key={scenario.name} className="mt-1 border-l-4 border-base-content pl-3">
          <p>
            <b>{scenario.name}</b>: {scenario.said}. {scenario.best_amount}
          </p>
          {scenario.problem && <p className="font-medium text-error">{scenario.problem}</p>}
          <Lines lines={scenario.lines} />
        </div>
      ))}
    </section>
  );
}
