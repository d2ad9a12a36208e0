import { useFields } from "../../api/queries";
import { ChoiceField, QuantityField, TextField } from "../../ui/fields";
import { useCropChoices } from "../../ui/readerUnits";
import { Worked } from "../../ui/working";
import { Belongs } from "./Belongs";
import { Caution, Columns } from "./Columns";
import { PriceFrom } from "./PriceFrom";
import { type Stage, useStage } from "./TrialFrame";

const LEVELS = [
  [0.05, "0.05: one false alarm in twenty"],
  [0.1, "0.10: one in ten, usual for farm decisions"],
  [0.2, "0.20: one in five"],
] as const;

export function Question() {
  const stage = useStage();
  const { trial, edit, problems, writable } = stage;
  const shared = { disabled: !writable };
  return (
    <Columns why={<Why {...stage} />}>
      <TheDifference {...stage} />
      <div className="mt-4 grid gap-x-5 gap-y-3 md:grid-cols-2">
        <div className="space-y-3">
          <TextField
            {...shared}
            label="The question"
            multiline
            value={trial.question}
            error={problems.question}
            hint="One thing changed, one answer wanted."
            onCommit={(question) => void edit({ question }, "question")}
          />
          <TextField
            {...shared}
            label="Your guess, before any result"
            multiline
            value={trial.guess}
            error={problems.guess}
            onCommit={(guess) => void edit({ guess }, "guess")}
          />
          <Place {...stage} />
        </div>
        <Money {...stage} />
      </div>
    </Columns>
  );
}

/** The answer of this stage: how much more each treatment must yield to pay. */
function TheDifference({ trial }: Stage) {
  const others = trial.treatments.filter((treatment) => !treatment.is_control);
  const margins = others.filter((other) => other.margin);
  return (
    <section aria-label="What must be gained to pay" className="border-l-4 border-base-content pl-3">
      <h2>What must be gained to pay</h2>
      {margins.length ? (
        <ul className="mt-1 flex flex-wrap gap-x-6 gap-y-1 text-lg">
          {margins.map((margin) => (
            <li key={margin.id}>
              {margin.name} must gain <Worked working={margin.margin_working}>{margin.margin?.text}</Worked>
            </li>
          ))}
        </ul>
      ) : (
        <p className="muted mt-1">
          {others.length
            ? "Give the price here and the extra cost of each treatment under Treatments, and the gain that pays shows here."
            : "It follows from the price and the extra cost of each treatment; there are no treatments yet."}
        </p>
      )}
    </section>
  );
}

function Place({ trial, edit, refuse, problems, writable }: Stage) {
  const fields = useFields(trial.workspace_id);
  return (
    <div className="grid grid-cols-2 gap-3">
      <ChoiceField
        label="Field"
        value={trial.field?.id ?? ""}
        disabled={!writable}
        error={problems.field_id}
        hint={fields.data?.length ? undefined : "Fields are added in Setup."}
        options={[
          ["", "not chosen"],
          ...(fields.data ?? []).map((field): [string, string] => [field.id, `${field.name} (${field.farm})`]),
        ]}
        onCommit={(field) => void edit({ field_id: field || null }, "field")}
      />
      <ChoiceField
        label="Crop"
        value={trial.crop}
        disabled={!writable || !trial.crop_bound.open}
        error={problems.crop}
        hint={trial.crop_bound.open ? undefined : trial.crop_bound.reason}
        options={useCropChoices()}
        onCommit={(crop) => void edit({ crop }, "crop")}
      />
      <TextField
        label="Season, year of harvest"
        value={String(trial.season)}
        inputMode="numeric"
        disabled={!writable}
        error={problems.season}
        onCommit={(text) =>
          /^\d{4}$/.test(text.trim())
            ? void edit({ season: Number(text) }, "season")
            : refuse("season", `The season is a year of four digits, the year of harvest; got “${text}”.`)
        }
      />
      <TextField
        label="Series, if repeated over years"
        value={trial.series}
        disabled={!writable}
        error={problems.series}
        onCommit={(series) => void edit({ series }, "series")}
      />
      <div className="col-span-2">
        <TextField
          label="Title"
          value={trial.title}
          disabled={!writable}
          error={problems.title}
          onCommit={(title) => void edit({ title }, "title")}
        />
      </div>
    </div>
  );
}

function Money(stage: Stage) {
  const { trial, edit, problems, writable, reader, currency } = stage;
  const money = { disabled: !writable, reader, currency };
  const judged = trial.responses.find((response) => response.key === trial.primary_response);
  return (
    <div className="space-y-3">
      <div className="grid grid-cols-2 gap-3">
        <ChoiceField
          label="Judged by"
          value={trial.primary_response}
          disabled={!writable}
          error={problems.primary_response}
          options={trial.responses.map((response): [string, string] => [response.key, response.name])}
          onCommit={(primary_response) => void edit({ primary_response }, "judged by")}
        />
        {judged?.dimension && (
          <QuantityField
            {...money}
            label={`Margin of ${judged.name.toLowerCase()}`}
            dimension={judged.dimension}
            value={trial.response_margin}
            error={problems.response_margin}
            hint="The least difference in it that you would act on."
            onCommit={(response_margin) => void edit({ response_margin }, "margin of the response")}
          />
        )}
        {trial.factors.some((factor) => factor.ladder) && (
          <ChoiceField
            label="An amount is answered by"
            value={trial.amounts_by}
            disabled={!writable}
            options={[
              ["curve", "a curve: which amount is best"],
              ["pairs", "pairs of its levels"],
            ]}
            onCommit={(value) => void edit({ amounts_by: value as "curve" | "pairs" }, "answered by")}
          />
        )}
        <ChoiceField
          label="Significance level"
          value={String(trial.alpha)}
          disabled={!writable}
          error={problems.alpha}
          options={LEVELS.map(([value, words]) => [String(value), words])}
          onCommit={(value) => void edit({ alpha: Number(value) }, "level")}
        />
        <QuantityField
          {...money}
          label="Price of the crop"
          dimension="price"
          kind="price"
          value={trial.price}
          error={problems.price}
          onCommit={(price) => void edit({ price }, "price")}
        />
        <PriceFrom {...stage} />
        <QuantityField
          {...money}
          label="Cost that comes with yield"
          dimension="price"
          kind="price"
          value={trial.unit_cost}
          error={problems.unit_cost}
          hint="Drying, hauling, storage."
          onCommit={(unit_cost) => void edit({ unit_cost }, "cost")}
        />
        <QuantityField
          {...money}
          label="Expected yield"
          dimension="mass_per_area"
          kind="yield"
          value={trial.expected_yield}
          error={problems.expected_yield}
          hint="To judge the layout; empty takes your earlier trials."
          onCommit={(expected_yield) => void edit({ expected_yield }, "expected yield")}
        />
        <QuantityField
          {...money}
          label="Practical margin of yield"
          dimension="mass_per_area"
          usual={reader.of.yield === "t/ha" ? "kg/ha" : reader.of.yield}
          value={trial.practical_margin}
          error={problems.practical_margin}
          hint="The least you would act on; empty takes 2 % of the expected yield."
          onCommit={(practical_margin) => void edit({ practical_margin }, "margin")}
        />
        <QuantityField
          {...money}
          label="Margin of net return"
          dimension="money_per_area"
          kind="net_return"
          value={trial.net_margin}
          error={problems.net_margin}
          hint="Less money than this is not worth a change."
          onCommit={(net_margin) => void edit({ net_margin }, "margin of net return")}
        />
      </div>
      <Belongs {...stage} />
    </div>
  );
}

function Why({ trial }: Stage) {
  return (
    <>
      <p>
        The practical margin is the smallest difference in yield you would act on. Inside it, two treatments may differ
        and it does not matter. What must be gained to pay, extra cost divided by the price left after drying and
        hauling, is told beside a gain and is no such margin.
      </p>
      <p>
        The significance level is the share of trials without any true difference that would still be called a gain or a
        loss. It is settled before the harvest, not after.
      </p>
      {trial.notes.map((note) => (
        <Caution key={note}>{note}</Caution>
      ))}
    </>
  );
}
