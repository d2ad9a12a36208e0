import type { ReaderUnits } from "../ui/readerUnits";

/** Units as the server gives them to a person in a metric place, and in the United States. */
export const METRIC: ReaderUnits = {
  own: ["m", "cm", "mm", "m2", "kg", "g", "kg/ha", "t/ha", "km/h"],
  of: {
    row_spacing: "cm",
    tape_length: "m",
    row_length: "m",
    strip_width: "m",
    strip_length: "m",
    sample_area: "m2",
    hoop: "cm",
    mass: "kg",
    speed: "km/h",
    seed_rate_mass: "kg/ha",
    yield: "t/ha",
  },
};
export const US: ReaderUnits = {
  own: ["ft", "in", "ft2", "lb", "oz", "lb/ac", "bu/ac", "mph"],
  of: {
    row_spacing: "in",
    tape_length: "ft",
    row_length: "ft",
    strip_width: "ft",
    strip_length: "ft",
    sample_area: "ft2",
    hoop: "in",
    mass: "lb",
    speed: "mph",
    seed_rate_mass: "lb/ac",
    yield: "bu/ac",
  },
};
