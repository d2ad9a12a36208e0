import type { Schemas } from "../../api/client";
import { useUnits } from "../../ui/fields";
import { type ReaderUnits, useCropChoices, useReaderUnits } from "../../ui/readerUnits";

type Preview = Schemas["PreviewOut"];
export type Mapping = {
  block: string;
  treatment: string;
  response: string;
  unit: string;
  title: string;
  crop: string;
  season: string;
  control: string;
  factor_name: string;
};

/** A first guess from the names of the columns; everything stays to be changed. */
export function guessMapping(preview: Preview, fileName: string, reader: ReaderUnits): Mapping {
  const find = (...stems: string[]) =>
    preview.columns.find((column) => stems.some((stem) => column.toLowerCase().includes(stem))) ?? "";
  const block = find("block", "rep");
  const response = find("yield", "response", "weight");
  const rest = preview.columns.filter((column) => column !== block && column !== response);
  const treatment = find("treat", "trt", "rate", "spacing", "depth", "till", "variety", "level") || rest.at(-1) || "";
  return {
    block,
    treatment,
    response,
    unit: reader.of.seed_rate_mass ?? "kg/ha",
    title: fileName.replace(/\.\w+$/, "").replace(/[_-]+/g, " "),
    crop: "other",
    season: String(new Date().getFullYear()),
    control: preview.values[treatment]?.[0] ?? "",
    factor_name: treatment,
  };
}

type Props = {
  preview: Preview;
  mapping: Mapping;
  onChange: (mapping: Mapping) => void;
  problem: { field: string | null } | null;
};

export function ImportMapping({ preview, mapping, onChange, problem }: Props) {
  const units = useUnits("mass_per_area", useReaderUnits());
  const set = (key: keyof Mapping) => (event: { target: { value: string } }) => {
    const next = { ...mapping, [key]: event.target.value };
    if (key === "treatment") {
      next.control = preview.values[next.treatment]?.[0] ?? "";
      next.factor_name = next.treatment;
    }
    onChange(next);
  };
  const choose = (key: keyof Mapping, label: string, options: [string, string][]) => (
    <label className="block">
      {label}
      <select className="entry" value={mapping[key]} aria-invalid={problem?.field === key} onChange={set(key)}>
        {options.map(([value, name]) => (
          <option key={value} value={value}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
  const columns: [string, string][] = [
    ["", "choose a column"],
    ...preview.columns.map((name): [string, string] => [name, name]),
  ];
  const levels = preview.values[mapping.treatment] ?? [];
  const write = (key: keyof Mapping, label: string) => (
    <label className="block">
      {label}
      <input className="entry" value={mapping[key]} aria-invalid={problem?.field === key} onChange={set(key)} />
    </label>
  );
  return (
    <div className="sheet grid grid-cols-2 gap-3 p-3">
      {choose("block", "Column of the block", columns)}
      {choose("treatment", "Column of the treatment", columns)}
      {choose("response", "Column of the yield", columns)}
      {choose("unit", "Its unit", units)}
      {choose("control", "Control", [...levels.map((level): [string, string] => [level, level])])}
      {write("factor_name", "What was varied")}
      {write("title", "Title of the trial")}
      {choose("crop", "Crop", useCropChoices())}
      {write("season", "Season, year of harvest")}
      <p className="muted self-end text-sm">Yields are taken as they stand: no moisture correction is made.</p>
    </div>
  );
}
