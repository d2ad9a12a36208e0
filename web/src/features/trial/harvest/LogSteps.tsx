import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, Fault, type Schemas } from "../../../api/client";
import { faultOf, useSaving } from "../../../app/saving";
import { LogMap } from "../../../ui/charts/LogMap";
import { Problem } from "../../../ui/Problem";
import { writtenNumber } from "../../../ui/writing";
import type { Stage } from "../TrialFrame";
import { LogStrips } from "./LogStrips";

type Log = Schemas["YieldLogOut"];
type Steps = Omit<Schemas["StepsIn"], "version">;
type Props = { stage: Stage; log: Log; onChanged: (log?: Log) => void };

const stepsOf = (log: Log): Steps => ({
  values: log.values,
  off: log.off,
  margin: { text: log.margin.text, unit: log.margin.unit },
  calibrated: log.calibrated,
  left_out: (log.calibration?.loads ?? []).filter((load) => !load.used).map((load) => load.load_id),
});

/** The cleaning step by step: what each dropped, its parameters, undone and taken back, with the picture. */
export function LogSteps({ stage, log, onChanged }: Props) {
  const [shown, setShown] = useState(1);
  const [problem, setProblem] = useState<{ field: string | null; message: string } | null>(null);
  const { save } = useSaving();
  const picture = usePicture(log);
  const busy = Boolean(log.job_id);

  async function change(part: Partial<Steps>, label: string) {
    const before = stepsOf(log);
    const send = (steps: Steps, version: number) =>
      ask(
        client.PUT("/api/yield-logs/{log_id}/steps", {
          params: { path: { log_id: log.id } },
          body: { ...steps, version },
        }),
      );
    try {
      const fresh = await save(() => send({ ...before, ...part }, log.version), {
        label,
        run: async () => {
          const back = await send(before, log.version + 1);
          onChanged(back);
        },
      });
      setProblem(null);
      if (fresh) onChanged(fresh);
    } catch (error) {
      setProblem(faultOf(error));
    }
  }

  const set = (name: string, text: string) => {
    const values = { ...log.values };
    if (text.trim() === "") delete values[name];
    else values[name] = Number(text.replace(",", "."));
    void change({ values }, "parameter of the cleaning");
  };
  const dropped = log.steps.reduce((sum, step) => sum + step.dropped, 0);
  return (
    <div className={`mt-2 ${busy ? "opacity-60" : ""}`}>
      <p>
        <b>{writtenNumber(log.readings)} readings</b> on {log.passes} passes; {writtenNumber(dropped)} dropped,{" "}
        {writtenNumber(log.on_strips)} left wholly inside a strip.
      </p>
      {log.remarks.map((said) => (
        <p key={said} className="font-medium">
          ? {said}
        </p>
      ))}
      <div className="overflow-x-auto">
        <table className="figures mt-2" aria-label="Steps of the cleaning">
          <thead>
            <tr>
              <th>In the picture</th>
              <th>Step</th>
              <th>Parameter</th>
              <th className="num">Dropped</th>
              <th className="num">Left</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {log.steps.map((step) => (
              <tr key={step.key} className={step.on ? "" : "muted"}>
                <td className="text-center">
                  <input
                    type="radio"
                    name="step"
                    aria-label={`Show what ${step.name} dropped`}
                    checked={shown === step.index}
                    onChange={() => setShown(step.index)}
                  />
                </td>
                <td className="font-medium">
                  {step.name}
                  {step.key === "delay" && log.delay_s !== null && step.on && (
                    <span className="muted block text-sm font-normal">
                      {log.delay_s.toFixed(1)} s{log.delay_found ? ", found from the log" : ""}
                    </span>
                  )}
                </td>
                <td>
                  <span className="flex flex-wrap gap-x-3 gap-y-1">
                    {step.parameters.map((parameter) => (
                      <Parameter
                        key={parameter.name}
                        parameter={parameter}
                        disabled={!stage.writable || !step.on || busy}
                        wrong={problem?.field === parameter.name}
                        onCommit={(text) => set(parameter.name, text)}
                      />
                    ))}
                  </span>
                </td>
                <td className="num font-semibold">{step.on ? writtenNumber(step.dropped) : ""}</td>
                <td className="num">{step.on ? writtenNumber(step.left) : ""}</td>
                <td>
                  {stage.writable && (
                    <button
                      type="button"
                      className="underline"
                      disabled={busy}
                      onClick={() =>
                        void change(
                          { off: step.on ? [...log.off, step.key] : log.off.filter((key) => key !== step.key) },
                          step.name.toLowerCase(),
                        )
                      }
                    >
                      {step.on ? "Undo" : "Do again"}
                      <span className="sr-only"> {step.name}</span>
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Problem>{problem?.message}</Problem>
      {picture.data && (
        <LogMap
          picture={picture.data}
          shown={shown}
          name={log.steps.find((step) => step.index === shown)?.name ?? ""}
          theme={document.documentElement.dataset.theme ?? ""}
        />
      )}
      {picture.error instanceof Fault && <p className="muted">The picture comes with the next cleaning.</p>}
      <Margin
        log={log}
        disabled={!stage.writable || busy}
        onCommit={(margin) => void change({ margin }, "inner margin")}
      />
      <LogStrips
        log={log}
        writable={stage.writable && !busy}
        onCalibrate={(calibrated) => void change({ calibrated }, "calibration")}
        onLeaveOut={(left_out) => void change({ left_out }, "loads calibrated on")}
      />
    </div>
  );
}

const usePicture = (log: Log) =>
  useQuery({
    queryKey: ["log-picture", log.id, log.version, log.state],
    enabled: log.state === "done",
    placeholderData: (before) => before,
    queryFn: () => ask(client.GET("/api/yield-logs/{log_id}/picture", { params: { path: { log_id: log.id } } })),
  });

type ParameterProps = {
  parameter: Schemas["ParameterOut"];
  disabled: boolean;
  wrong: boolean;
  onCommit: (text: string) => void;
};

/** A number with its usual value; left empty it is the usual one. */
function Parameter({ parameter, disabled, wrong, onCommit }: ParameterProps) {
  const kept = parameter.value === null ? "" : String(parameter.value);
  const [text, setText] = useState(kept);
  const [from, setFrom] = useState(kept);
  if (from !== kept) {
    setFrom(kept);
    setText(kept);
  }
  const commit = () => text !== kept && onCommit(text);
  return (
    <label className="flex items-center gap-1 text-sm">
      <span className="muted">{parameter.label}</span>
      <input
        className="entry min-h-7 w-20 py-0 text-right"
        inputMode="decimal"
        aria-invalid={wrong}
        placeholder={parameter.usual === null ? "found" : String(parameter.usual)}
        value={text}
        disabled={disabled}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => event.key === "Enter" && commit()}
      />
      {parameter.unit}
    </label>
  );
}

type MarginProps = { log: Log; disabled: boolean; onCommit: (margin: Steps["margin"]) => void };

function Margin({ log, disabled, onCommit }: MarginProps) {
  const [text, setText] = useState(log.margin.text);
  const commit = () => text !== log.margin.text && onCommit({ text, unit: log.margin.unit || "m" });
  return (
    <label className="mt-2 flex items-center gap-2">
      Readings count when they lie inside a strip by at least
      <input
        className="entry min-h-7 w-20 py-0 text-right"
        inputMode="decimal"
        aria-label="Inner margin"
        value={text}
        disabled={disabled}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => event.key === "Enter" && commit()}
      />
      {log.margin.unit || "m"}
    </label>
  );
}
