import { describe, expect, it } from "vitest";
import { faultOf, framesOf, patternOf } from "./faults";

describe("what is told of a fault", () => {
  it("names the places in the code and nothing of what was typed", () => {
    const error = new TypeError("cannot read “Ines 0555 0142”");
    error.stack = [
      "TypeError: cannot read “Ines 0555 0142”",
      "    at Heat (https://ofen.example/assets/index-Ab1.js:12:345)",
      "    at https://ofen.example/assets/vendor.js:1:2",
      "render@https://ofen.example/assets/index-Ab1.js:3:4",
      "    at note Ines (nowhere)",
    ].join("\n");
    const fault = faultOf("This stage", error, "/jobs/7abaa8b9-9f54-4b3e-a254-0057be4d5177/need");
    expect(fault.frames).toEqual(["Heat index-Ab1.js:12:345", "(none) vendor.js:1:2", "render index-Ab1.js:3:4"]);
    expect(fault).toMatchObject({ what: "This stage", name: "TypeError", page: "/jobs/:id/need" });
    expect(JSON.stringify(fault)).not.toContain("Ines");
  });

  it("is bounded, whatever was thrown", () => {
    const deep = Array.from({ length: 500 }, (_, n) => `    at f${n} (https://x/assets/a.js:${n}:1)`).join("\n");
    expect(framesOf(`Error\n${deep}`)).toHaveLength(12);
    expect(framesOf(undefined)).toEqual([]);
    expect(faultOf("x".repeat(5000), "thrown text", "/a".repeat(500))).toMatchObject({ name: "string", frames: [] });
    expect(faultOf("x".repeat(5000), 7, "/").what).toHaveLength(120);
    expect(patternOf("/a".repeat(500))).toHaveLength(120);
  });
});
