/** How the workspace writes numbers and days; set when it is opened, like the identity of the device. */
export type Writing = "day_first" | "month_first" | "comma_day_first";

const NARROW = "\u202f";
let current: Writing = "day_first";

export const setWriting = (writing: Writing | undefined) => {
  current = writing ?? "day_first";
};

const locale = () => (current === "month_first" ? "en-US" : "en-GB");
const DAY = { day: "numeric", month: "short", year: "numeric" } as const;
const CLOCK = { hour: "2-digit", minute: "2-digit", hourCycle: "h23" } as const;

/** A calendar day as “2026-05-03”, as people read it; it has no time zone. */
export const writtenDay = (day: string) =>
  new Date(`${day}T12:00:00Z`).toLocaleDateString(locale(), { ...DAY, timeZone: "UTC" });

/** The day of a moment, here. */
export const writtenDayOf = (at: string) => new Date(at).toLocaleDateString(locale(), DAY);

/** A moment with its hour, here; without its year where the season tells it. */
export const writtenMoment = (at: string | number, { year = false } = {}) =>
  new Date(at).toLocaleString(locale(), {
    day: "numeric",
    month: "short",
    ...(year ? { year: "numeric" } : {}),
    ...CLOCK,
  });

/** A whole number, with its thousands apart from ten thousand on. */
export const writtenNumber = (value: number) => {
  if (Math.abs(value) < 10_000) return String(value);
  const apart = value.toLocaleString("en-US");
  return current === "day_first" ? apart.replaceAll(",", NARROW) : apart;
};
