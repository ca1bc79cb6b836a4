import { Speaking } from "../words/Speaking";
import { act, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { Growing } from "./Growing";

afterEach(() => vi.unstubAllGlobals());

it("draws as much of a thousand rows as was scrolled to", () => {
  const seen: (() => void)[] = [];
  class Watch {
    private readonly told: IntersectionObserverCallback;
    constructor(told: IntersectionObserverCallback) {
      this.told = told;
    }
    observe() {
      seen.push(() => this.told([{ isIntersecting: true } as IntersectionObserverEntry], this as never));
    }
    disconnect() {}
  }
  vi.stubGlobal("IntersectionObserver", Watch);
  render(<Growing rows={Array.from({ length: 1000 }, (_, n) => n)} row={(n) => <li key={n}>row {n}</li>} />, { wrapper: Speaking });
  expect(screen.getAllByText(/^row/)).toHaveLength(60);
  expect(screen.getByText("940 more below")).toBeTruthy();
  act(() => seen.at(-1)?.());
  expect(screen.getAllByText(/^row/)).toHaveLength(120);
});
