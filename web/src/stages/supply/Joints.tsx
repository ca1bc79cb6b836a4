// Supply, joints: every joint of the path, how it is made and closed; commissioning tests each one.
import { t } from "@lingui/core/macro";
import type { Row } from "../../api/client";
import { useSupplyStage } from "../../job/context";
import { StagePart } from "../../ui/answers";
import { CaptionedTable } from "../../ui/CaptionedTable";
import { Message, StageLink } from "../../ui/controls";

type Joint = Row<"joints">;

/** What makes a joint tight at the left, the register at the right. */
export function Joints() {
  const stage = useSupplyStage();
  return (
    <StagePart
      given={
        <>
          <h3 className="border-t-[1.5px] border-frame pt-2 font-bold">{t`How to make a joint tight`}</h3>
          <ul className="list-disc space-y-1 pl-5">
            <li>{t`Keep dirt, moisture and sealant out of the line.`}</li>
            <li>{t`Use sealant on tapered threads only. Flares, unions and couplings seal by themselves.`}</li>
            <li>{t`Tighten cylinder couplings by hand, never with a spanner.`}</li>
            <li>{t`Pressure-test with air or inert gas before the machines are connected. Leak-check at working pressure afterwards.`}</li>
            <li>{t`Never a flame. A joint that is opened later is tested again.`}</li>
          </ul>
          <p className="pt-2 text-small text-muted">{t`Common practice. Follow the maker’s instructions and the code, and leave licensed work to licensed people.`}</p>
        </>
      }
      stage={stage}
      part="joints"
      choices={<Register joints={stage?.tables["joints"] ?? []} />}
    />
  );
}

function Register({ joints }: { joints: Joint[] }) {
  if (joints.length === 0)
    return (
      <Message title={t`No joint yet`}>
        {t`Every part of the fuel path has joints to leak-test. Add the parts first.`}
        <StageLink to="supply?part=path">{t`Add parts of the path`}</StageLink>
      </Message>
    );
  return (
    <CaptionedTable
      caption={t`Joint register`}
      quietCaption
      heads={[t`Joint`, t`Made as`, t`Sealant`, t`Tool`].map((word) => ({ word }))}
    >
      {joints.map((j) => (
        <tr key={j.id} className="border-t border-hair align-top">
          <th scope="row" className="py-0.5 pr-2 font-medium">
            {j.name}
          </th>
          <td className="whitespace-nowrap pr-2">{j.sort}</td>
          <td className="pr-2 text-small">{j.seal}</td>
          <td className="text-small">{j.tool}</td>
        </tr>
      ))}
    </CaptionedTable>
  );
}
