// A part of the page that may fail by itself: what is round it stays, and what was recorded and typed is kept.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { ReactNode } from "react";
import { ErrorBoundary } from "react-error-boundary";
import { tellFault } from "../app/faults";
import { Button, Message } from "./controls";

interface GuardedProps {
  /** What it is, as a sentence begins with it: "This page", "This stage". */
  what: string;
  /** It is tried again by itself once one of these changes. */
  resetKeys?: unknown[];
  /** What else one can do while it cannot be shown. */
  beside?: ReactNode;
  children: ReactNode;
}

/** Shows its children, or that they cannot be shown and what to do now. */
export function Guarded({ what, resetKeys = [], beside, children }: GuardedProps) {
  return (
    <ErrorBoundary
      resetKeys={resetKeys}
      onError={(error) => tellFault(what, error)}
      fallbackRender={({ resetErrorBoundary }) => (
        <div className="p-5" data-testid="cannot-be-shown">
          <Message failed title={t`${what} cannot be shown`}>
            <Trans>
              Something went wrong here. What you recorded and typed is saved on this device.
              <span className="mt-3 flex flex-wrap gap-3">
                <Button onClick={resetErrorBoundary}>Try again</Button>
                <Button look="quiet" onClick={() => globalThis.location.reload()}>
                  Load the page again
                </Button>
                {beside}
              </span>
            </Trans>
          </Message>
        </div>
      )}
    >
      {children}
    </ErrorBoundary>
  );
}
