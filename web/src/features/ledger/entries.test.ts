// @vitest-environment node
import { expect, it } from "vitest";
import { askedOf } from "./entries";

const asked = (search: string) => askedOf(new URLSearchParams(search));

it("asks for what the address says, and for nothing it does not know", () => {
  expect(asked("")).toEqual({});
  expect(asked("factor=Seeding rate&year=2025&page=2")).toEqual({ factor: "Seeding rate", year: "2025" });
  expect(asked("order=season&crop=")).toEqual({ order: "season" });
  expect(asked("order=net")).toEqual({});
  expect(asked("order=colour")).toEqual({});
});
