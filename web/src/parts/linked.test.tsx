import { expect, test } from "vitest";
import { addressesIn } from "./linked";

test("web addresses are found without what stands around them", () => {
  const text =
    "See https://a.example/x?y=1, (http://b.example/c) or https://a.example/x?y=1. Not ftp://c.example";
  expect(addressesIn(text)).toEqual(["https://a.example/x?y=1", "http://b.example/c"]);
});
