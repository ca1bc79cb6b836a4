import { t } from "@lingui/core/macro";
import { render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import { dated } from "../app/context";
import { Speaking } from "./Speaking";
import { longer, sayLonger, sayTerms, worded } from "./terms";
import { englishOf, speak } from "./words";

const TERMS = { petrol: { british: "petrol", american: "gasoline" }, an_earth: { british: "an earth", american: "a ground" } };

afterEach(() => speak("british", {}));

test("a term is said in the English that is chosen, with a capital where it is named with one", () => {
  sayTerms(TERMS, "american");
  expect(worded("{term:Petrol} is not {term:an_earth}; {value} stays")).toBe("Gasoline is not a ground; {value} stays");
  sayTerms(TERMS, "british");
  expect(worded("{term:Petrol} is not {term:an_earth}")).toBe("Petrol is not an earth");
});

test("a day is written as the reader's English writes it, whatever language the device speaks", () => {
  const day = { day: "numeric", month: "short", year: "numeric" } as const;
  speak("american", TERMS);
  expect(dated("2026-11-24T12:00", day)).toBe("Nov 24, 2026");
  speak("british", TERMS);
  expect(dated("2026-11-24T12:00", day)).toBe("24 Nov 2026");
});

test("the name of a term never reaches a screen, not even of one that nobody knows", () => {
  expect(worded("a {term:left_handed} valve")).toBe("a left handed valve");
});

test("what a person reads of an element is said in their English, and what a field holds stays as it is", () => {
  speak("american", TERMS);
  const said = "Fill it with {term:petrol}";
  render(
    <Speaking>
      <label>
        {said}
        <input placeholder={said} defaultValue={said} />
      </label>
      <img alt={said} />
      <p data-testid="mixed">{t`Do this: ${said}`}</p>
    </Speaking>,
  );
  const field = screen.getByLabelText<HTMLInputElement>("Fill it with gasoline");
  expect([field.placeholder, field.value]).toEqual(["Fill it with gasoline", said]);
  expect(screen.getByRole("img", { name: "Fill it with gasoline" })).toBeTruthy();
  expect(screen.getByTestId("mixed").textContent).toBe("Do this: Fill it with gasoline");
});

test("the English goes with the units until a person chooses one", () => {
  expect(englishOf({ english: "", units: "us" })).toBe("american");
  expect(englishOf({ english: "", units: "metric" })).toBe("british");
  expect(englishOf({ english: "british", units: "us" })).toBe("british");
});

test("in the language of no people every word is half as long again, once, and numbers and units stay", () => {
  expect(longer("Heat loss: 20.6 kW at −12 °C")).toBe("Heatøø lossøø: 20.6 kW at −12 °C");
  expect(longer(longer("Heat"))).toBe("Heatøø");
  sayLonger(true);
  try {
    expect(worded("{term:petrol} tank")).toBe("petroløøø tankøø");
  } finally {
    sayLonger(false);
  }
});
