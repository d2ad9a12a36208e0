import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { ask, client } from "../../api/client";
import { EntryField } from "../../ui/EntryField";
import { ChoiceField } from "../../ui/fields";

type Field = { value: string; onChange: (value: string) => void; error: string | null };
export type WorkspaceEntries = { workspace: string; currency: string; time_zone: string; unit_system: string };

/** The time zone of this device, where the server is likely to know it. */
export const ownZone = () => Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";
export const NEW_WORKSPACE: WorkspaceEntries = {
  workspace: "",
  currency: "€",
  time_zone: ownZone(),
  unit_system: "metric",
};

/** Name, currency, time zone and units of a workspace. */
export function WorkspaceFields({ of }: { of: (name: keyof WorkspaceEntries) => Field }) {
  const { value: zone, onChange: setZone, error: zoneError } = of("time_zone");
  const { value: units, onChange: setUnits, error: unitsError } = of("unit_system");
  return (
    <>
      <EntryField label="Farm or group" hint="Everything in it is shared by its people only." {...of("workspace")} />
      <div className="grid grid-cols-2 gap-3">
        <EntryField label="Currency" hint="A sign or code: €, $, USD." {...of("currency")} />
        <ChoiceField
          label="Units"
          value={units}
          error={unitsError}
          options={[
            ["metric", "metric"],
            ["us", "US customary"],
          ]}
          onCommit={setUnits}
        />
      </div>
      <ZoneField value={zone} onChange={setZone} error={zoneError} />
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
        {zones.data?.map((one) => (
          <option key={one} value={one} />
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
