import { Trans } from "@lingui/react/macro";
// The bar over every page that is no job's: the name, and what belongs beside it.

/** The name at the left, then the children. */
export function TopBar({ children }: { children: React.ReactNode }) {
  return (
    <header className="flex flex-wrap items-center gap-x-5 gap-y-2 border-b-[1.5px] border-frame bg-rail px-5 py-2.5">
      <span className="text-xl font-extrabold tracking-tight [font-stretch:118%]">
        <Trans>
          ofen<span className="text-ember">.</span>
        </Trans>
      </span>
      {children}
    </header>
  );
}
