// When it was read: left empty, now; yesterday's weights have yesterday's date.
import { Trans } from "@lingui/react/macro";
import { momentOf } from "./visiting";

/** What a remark may hold. */
export const MOST_REMARK = 400;
export const BOX = "min-h-10 w-full rounded-sm border-[1.5px] border-edge bg-card px-2";

export function When({ value, put }: { value: string; put: (text: string) => void }) {
  const read = momentOf(value);
  return (
    <label className="grid grid-cols-[1fr_13rem] items-center gap-3 border-b border-hair py-1">
      <span className="font-medium">
        <Trans>
          Time of reading <span className="font-normal text-muted">blank = now</span>
        </Trans>
      </span>
      <input
        data-testid="read-at"
        type="datetime-local"
        value={value}
        onChange={(e) => put(e.target.value)}
        aria-invalid={"error" in read}
        className={BOX}
      />
      {"error" in read ? (
        <span role="alert" className="col-span-2 text-small text-stop">
          {read.error}
        </span>
      ) : null}
    </label>
  );
}
