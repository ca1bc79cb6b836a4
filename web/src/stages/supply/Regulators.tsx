// Supply, regulators: what there is for the fuel, by stage, with what each carries as its inlet falls.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Vocabulary } from "../../api/client";
import { useQuantities, useSurroundings } from "../../app/context";
import { useSupply } from "../../job/context";
import { listAt, textAt } from "../../job/document";
import { StagePart } from "../../ui/answers";

type Sheet = Vocabulary["catalogue"]["regulators"][number];

const stagesWords = (): [string, string][] => [
  ["first", t`First stage, at the cylinder`],
  ["integral", t`Both stages in one, at the cylinder`],
  ["second", t`Second stage and line, before the machine`],
  ["high", t`High pressure, at the cylinder`],
  ["demand", t`Demand, within 3 ft of an engine`],
];
const LOW_PA = 10_000;

/** Rules of the chain at the left, the catalogue by stage at the right, those of this path marked. */
export function Regulators() {
  const { vocabulary } = useSurroundings();
  const { given, fuel } = useSupply();
  const here = new Set(listAt(given, "parts").map((p) => textAt(p, "model")));
  const sheets = vocabulary.catalogue.regulators.filter((r) => r.gas === fuel);
  return (
    <StagePart
      given={
        <>
          <h3 className="border-t-[1.5px] border-frame pt-2 font-bold">{t`The chain`}</h3>
          <ul className="list-disc space-y-1 pl-5">
            <li>{t`Size on the coldest inlet, not on the label. What it carries falls as the cylinders cool.`}</li>
            <li>{t`Two regulators of one stage in a row starve the burner. So does one in front of a machine that has its own.`}</li>
            <li>{t`Standing pressure means set pressure plus lock-up. If the sheet does not say, measure it.`}</li>
            <li>{t`Set the relief above lock-up, and no higher than the parts behind it withstand.`}</li>
            <li>{t`Every vent points down, with its screen in place.`}</li>
            <li>{t`A demand regulator stays within 3 ft of its engine.`}</li>
          </ul>
          <p className="pt-2 text-small text-muted">{t`Common practice. Follow the maker’s sheet and the code, and leave licensed work to licensed people.`}</p>
        </>
      }
      above={
        <>
          {stagesWords().map(([stage, words]) => (
            <Stage key={stage} words={words} sheets={sheets.filter((r) => r.stage === stage)} here={here} />
          ))}
        </>
      }
    />
  );
}

function Stage({ words, sheets, here }: { words: string; sheets: Sheet[]; here: Set<string> }) {
  const q = useQuantities();
  if (sheets.length === 0) return null;
  const pressure = (pa: number) => q.show(pa, pa < LOW_PA ? "gas_pressure" : "source_pressure");
  return (
    <section className="mb-4 border-t-[1.5px] border-frame">
      <h3 className="pt-1 font-bold">{words}</h3>
      <ul>
        {sheets.map((r) => (
          <li key={r.id} className="border-t border-hair py-1">
            <span className="font-medium">{r.name}</span>
            {here.has(r.id) ? <span className="text-small font-semibold text-gas">{t` on this path`}</span> : null}
            <p className="text-small text-muted">
              <Trans>
                Set to {pressure(r.set_pa)}. Droop {q.show(r.droop_fraction, "fraction")}, lock-up{" "}
                {r.lockup_fraction === null ? t`not entered` : q.show(r.lockup_fraction, "fraction")}, relief{" "}
                {r.relief_pa === null ? t`none` : pressure(r.relief_pa)}, inlet at most {pressure(r.inlet_most_pa)}.{" "}
                {r.stands_too_high_for.length === 0 ? null : (
                  <>
                    <Trans>Too high for {r.stands_too_high_for.join("; ")} with all machines off. </Trans>
                  </>
                )}
                Carries {r.capacity.map(([pa, kg]) => t`${q.show(kg / 3600, "mass_flow")} at ${pressure(pa)}`).join(", ")}.
              </Trans>
            </p>
          </li>
        ))}
      </ul>
    </section>
  );
}
