import { Speaking } from "../words/Speaking";
import { fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Guarded } from "./Guarded";

let breaks = true;
const Fragile = () => {
  if (breaks) throw new Error("no row of that name");
  return <p>The stage</p>;
};

beforeEach(() => {
  breaks = true;
  // React tells what it caught; the test does not need it twice.
  vi.spyOn(console, "error").mockImplementation(() => undefined);
});
afterEach(() => {
  vi.restoreAllMocks();
});

test("what fails says so at its place, and what is round it stays", () => {
  render(
    <>
      <p>The rail</p>
      <Guarded what="This stage">
        <Fragile />
      </Guarded>
    </>,
    { wrapper: Speaking },
  );
  expect(screen.getByText("The rail")).toBeTruthy();
  expect(screen.getByRole("alert").textContent).toContain("This stage cannot be shown");
  expect(screen.getByRole("alert").textContent).toContain("saved on this device");
  expect(screen.getByRole("alert").textContent).not.toContain("no row of that name");
});

test("tried again it stands there once nothing is wrong any more", () => {
  render(
    <Guarded what="This stage" beside={<button type="button">Help</button>}>
      <Fragile />
    </Guarded>,
    { wrapper: Speaking },
  );
  expect(screen.getByRole("button", { name: "Help" })).toBeTruthy();
  breaks = false;
  fireEvent.click(screen.getByRole("button", { name: "Try again" }));
  expect(screen.getByText("The stage")).toBeTruthy();
});

test("another stage is shown without a press", () => {
  function Page() {
    const [stage, go] = useState("need");
    return (
      <>
        <button
          type="button"
          onClick={() => {
            breaks = false;
            go("supply");
          }}
        >
          Supply
        </button>
        <Guarded what="This stage" resetKeys={[stage]}>
          <Fragile />
        </Guarded>
      </>
    );
  }
  render(<Page />, { wrapper: Speaking });
  fireEvent.click(screen.getByRole("button", { name: "Supply" }));
  expect(screen.getByText("The stage")).toBeTruthy();
});
