import { t } from "@lingui/core/macro";
import { Radio, RadioGroup, Select } from "@headlessui/react";
import type { Person } from "../api/client";
import type { System } from "../quantities/quantity";
import { useSurroundings } from "../app/context";

const SYSTEMS: { value: System; reads: string }[] = [
  { value: "metric", reads: "mbar kW m" },
  { value: "us", reads: "in w.c. Btu/h ft" },
];
const themes = (): { value: Person["theme"]; reads: string }[] => [
  { value: "auto", reads: t`Device theme` },
  { value: "light", reads: t`Light` },
  { value: "dark", reads: t`Dark` },
  { value: "contrast", reads: t`Bright sun` },
];

/** The English that goes with the units comes first, and each by itself. */
const englishes = (): { value: Person["english"]; reads: string }[] => [
  { value: "", reads: t`English by units` },
  { value: "british", reads: t`British` },
  { value: "american", reads: t`American` },
];

/** Units, English and theme of the person. */
export function Preferences() {
  const { person, change } = useSurroundings();
  return (
    <div className="no-print flex flex-wrap items-center gap-x-4 gap-y-1">
      <RadioGroup value={person.units} onChange={(units: System) => change({ units })} aria-label={t`Units`} className="flex gap-3">
        {SYSTEMS.map((s) => (
          <Radio
            key={s.value}
            data-testid={`units-${s.value}`}
            value={s.value}
            className="cursor-pointer border-b-[2.5px] border-transparent pb-0.5 text-ink-2 data-checked:border-ember data-checked:font-semibold data-checked:text-ink"
          >
            {s.reads}
          </Radio>
        ))}
      </RadioGroup>
      <Chosen id="english" name={t`English`} value={person.english} options={englishes()} pick={(english) => change({ english })} />
      <Chosen id="theme" name={t`Theme`} value={person.theme} options={themes()} pick={(theme) => change({ theme })} />
    </div>
  );
}

interface ChosenProps<V extends string> {
  id: string;
  /** What a screen reader says before the choice. */
  name: string;
  value: V;
  options: { value: V; reads: string }[];
  pick: (value: V) => void;
}

/** One preference, chosen from a short list. */
function Chosen<V extends string>({ id, name, value, options, pick }: ChosenProps<V>) {
  return (
    <Select
      data-testid={id}
      aria-label={name}
      value={value}
      onChange={(e) => pick(e.target.value as V)}
      className="rounded-sm border border-edge bg-card px-1 py-0.5 text-small"
    >
      {options.map((o) => (
        <option key={o.value} value={o.value}>
          {o.reads}
        </option>
      ))}
    </Select>
  );
}
