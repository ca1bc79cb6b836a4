// Our few controls that stand outside a job document.
import { t } from "@lingui/core/macro";
import { Button as Base } from "@headlessui/react";
import { type ReactNode, use } from "react";
import { Link } from "react-router";
import { JobContext } from "../job/context";

/** Why a guest changes nothing. */
export const guestWords = () => t`You are a guest in this team. You can read, but not change.`;

const LOOKS = {
  act: "border-ember bg-ember text-on-ember font-semibold",
  plain: "border-frame bg-card text-ink font-medium",
  quiet: "border-transparent bg-transparent text-ember-ink underline decoration-ember decoration-2 underline-offset-3 px-0",
};

interface ButtonProps {
  /** What pressing it does, a verb. */
  children: ReactNode;
  /** "act" is the one thing to do here. */
  look?: keyof typeof LOOKS;
  /** Large enough for a gloved finger. */
  large?: boolean;
  onClick?: () => void;
  disabled?: boolean;
  /** It changes the job: off for a guest, who reads why. */
  edits?: boolean;
  type?: "button" | "submit";
  /** By which a test finds it, whatever its words are. */
  "data-testid"?: string;
}

/** A button. */
export function Button({
  children,
  look = "plain",
  large = false,
  onClick,
  disabled = false,
  edits = false,
  type = "button",
  "data-testid": testId,
}: ButtonProps) {
  const isGuest = use(JobContext)?.role === "guest" && edits;
  const size = large ? "min-h-14 px-4 text-lg" : "min-h-9 px-3";
  return (
    <Base
      type={type}
      disabled={disabled || isGuest}
      data-testid={testId}
      {...(isGuest ? { title: guestWords(), "aria-description": guestWords() } : {})}
      {...(onClick ? { onClick } : {})}
      className={`rounded-sm border-[1.5px] ${size} ${LOOKS[look]} disabled:opacity-50`}
    >
      {children}
    </Base>
  );
}

interface StageLinkProps {
  /** Where to go within the job: "need?part=power". */
  to: string;
  /** What one does there, a verb with its object. */
  children: ReactNode;
}

/** The one thing to do first, at another stage of the job; it looks like a button. */
export function StageLink({ to, children }: StageLinkProps) {
  const job = use(JobContext);
  if (!job) return null;
  return (
    <p className="pt-3">
      <Link
        data-testid="first-thing"
        to={`/jobs/${job.id}/${to}`}
        className={`inline-flex min-h-9 items-center rounded-sm border-[1.5px] px-3 ${LOOKS.plain}`}
      >
        {children}
      </Link>
    </p>
  );
}

interface MessageProps {
  /** What is the matter, or what is not here yet. */
  title: string;
  /** What to do first. */
  children?: ReactNode;
  /** A failure is read out at once. */
  failed?: boolean;
}

/** The one component for empty and error states. */
export function Message({ title, children, failed = false }: MessageProps) {
  return (
    <div
      role={failed ? "alert" : undefined}
      className={`rounded-sm border-[1.5px] p-4 ${failed ? "border-stop bg-ember-wash" : "border-rule bg-card"}`}
    >
      <p className="font-semibold">{title}</p>
      <div className="mt-1 text-ink-2">{children}</div>
    </div>
  );
}

/** Grey bars where an answer will stand. */
export function Skeleton({ lines = 4 }: { lines?: number }) {
  return (
    <div role="status" aria-busy="true" aria-label={t`Loading`} className="space-y-3">
      {Array.from({ length: lines }, (_, n) => (
        <div key={n} className="h-8 rounded-sm bg-hair" />
      ))}
    </div>
  );
}
