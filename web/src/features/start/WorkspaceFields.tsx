import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { ask, client } from "../../api/client";
import { useRegions } from "../../api/queries";
import { EntryField } from "../../ui/EntryField";
import { ChoiceField } from "../../ui/fields";

type Field = { value: string; onChange: (value: string) => void; error: string | null };
export type WorkspaceEntries = { workspace: string; currency: string; time_zone: string; region: string };

/** The time zone of this device, where the server is likely to know it. */
export const ownZone = () => Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";
/** A first guess of the region, by the language that this device speaks. */
export function ownRegion(language = navigator.language): [string, string] {
  if (/-US$/.test(language)) return ["us", "$"];
  return /-CA$/.test(language) ? ["canada", "CA$"] : ["europe", "€"];
}
const [REGION, CURRENCY] = ownRegion();
export const NEW_WORKSPACE: WorkspaceEntries = {
  workspace: "",
  currency: CURRENCY,
  time_zone: ownZone(),
  region: REGION,
};

/** Name, region with its currency, and time zone of a workspace. */
export function WorkspaceFields({ of }: { of: (name: keyof WorkspaceEntries) => Field }) {
  const { value: zone, onChange: setZone, error: zoneError } = of("time_zone");
  const { value: region, onChange: setRegion, error: regionError } = of("region");
  const { onChange: setCurrency } = of("currency");
  const regions = useRegions();
  return (
    <>
      <EntryField label="Farm or group" hint="Everything in it is shared by its people only." {...of("workspace")} />
      <ChoiceField
        label="Region"
        value={region}
        error={regionError}
        hint="Its units, paper and crops; each can be changed later."
        options={regions.data?.regions.map((item) => [item.key, item.name]) ?? []}
        onCommit={(key) => {
          setRegion(key);
          setCurrency(regions.data?.regions.find((item) => item.key === key)?.currency ?? "");
        }}
      />
      <div className="grid grid-cols-2 gap-3">
        <EntryField label="Currency" hint="A sign or code: €, $, USD." {...of("currency")} />
        <ZoneField value={zone} onChange={setZone} error={zoneError} />
      </div>
    </>
  );
}

/** A time zone by its name, with the names that there are to choose from. */
export function ZoneField({ value, onChange, error }: Field) {
  const list = useId();
  const zones = useQuery({
    queryKey: ["time-zones"],
    queryFn: () => ask(client.GET("/api/time-zones")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  return (
    <div>
      <label>
        Time zone
        <input
          className="entry"
          list={list}
          value={value}
          aria-invalid={Boolean(error)}
          onChange={(event) => onChange(event.target.value)}
        />
      </label>
      <datalist id={list}>
        {zones.data?.map((zone) => (
          <option key={zone} value={zone} />
        ))}
      </datalist>
      {error && (
        <p role="alert" className="font-medium text-error">
          {error}
        </p>
      )}
    </div>
  );
}
