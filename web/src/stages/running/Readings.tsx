// The readings of a visit at a desk: every field at once, what was read last beside each.
import { t } from "@lingui/core/macro";
import { Select } from "@headlessui/react";
import { Link, useParams } from "react-router";
import type { VisitField } from "../../api/client";
import { useQuantities } from "../../app/context";
import { Button } from "../../ui/controls";
import { BOX, MOST_REMARK, When } from "./When";
import { useVisit } from "./useAsked";
import { NoRoom } from "./useKeep";
import { type VisitForm, useVisitForm } from "./useVisitForm";
import { type Answer, lastWords } from "./visiting";

export function Readings() {
  const fields = useVisit();
  return fields && fields.length > 0 ? <Form fields={fields} /> : null;
}

function Form({ fields }: { fields: VisitField[] }) {
  const { jobId = "" } = useParams();
  const form = useVisitForm(fields);
  const groups = [...new Set(fields.map((f) => f.name))];
  return (
    <form
      data-testid="new-readings"
      aria-label={t`New readings`}
      onSubmit={(e) => {
        e.preventDefault();
        if (form.doubtful === null) void form.save();
      }}
    >
      <p className="pb-2">
        <Link
          data-testid="log-visit"
          to={`/jobs/${jobId}/visit`}
          className="inline-flex min-h-12 items-center rounded-sm border-[1.5px] border-ember bg-ember px-4 font-semibold text-on-ember"
        >{t`Log a visit, step by step`}</Link>
      </p>
      <When value={form.when} put={(text) => form.put("when", text)} />
      {groups.map((name) => (
        <fieldset key={name} className="pb-2">
          <legend className="pt-1 text-small text-muted">{name}</legend>
          {fields.map((f, n) =>
            f.name === name ? <Line key={f.key} field={f} answer={form.answers[n] as Answer} form={form} /> : null,
          )}
        </fieldset>
      ))}
      <label className="grid grid-cols-[1fr_9rem] items-center gap-3 border-b border-hair py-1">
        <span className="font-medium">{t`Remark`}</span>
        <input value={form.remark} onChange={(e) => form.put("remark", e.target.value)} maxLength={MOST_REMARK} className={BOX} />
      </label>
      {form.trouble ? <NoRoom /> : null}
      <div className="pt-3">
        <Button
          data-testid="record-readings"
          type="submit"
          look="act"
          large
          disabled={!form.ready || form.doubtful !== null}
        >{t`Record readings`}</Button>
      </div>
    </form>
  );
}

function Line({ field, answer, form }: { field: VisitField; answer: Answer; form: VisitForm }) {
  const q = useQuantities();
  const question = form.questionOf(field);
  const text = form.textOf(field);
  return (
    <div className="border-b border-hair py-1">
      <label className="grid grid-cols-[1fr_9rem] items-center gap-3">
        <span>
          <span className="font-medium">{field.label}</span>
          <span className="block text-small text-muted">{lastWords(field, q)}</span>
        </span>
        {field.looks.length > 0 ? (
          <Select data-field={field.key} value={text} onChange={(e) => form.type(field, e.target.value)} className={BOX}>
            <option value="">—</option>
            {field.looks.map((o) => (
              <option key={o.value} value={o.value}>
                {o.reads}
              </option>
            ))}
          </Select>
        ) : (
          <input
            data-field={field.key}
            value={text}
            onChange={(e) => form.type(field, e.target.value)}
            inputMode="decimal"
            autoComplete="off"
            placeholder={q.split(0, field.kind).unit}
            aria-invalid={answer.error !== ""}
            className={`min-h-10 w-full rounded-sm border-[1.5px] bg-card px-2 text-right placeholder:text-muted ${answer.error ? "border-stop bg-ember-wash" : "border-edge"}`}
          />
        )}
      </label>
      {answer.error ? (
        <p role="alert" className="text-small text-stop">
          {answer.error}
        </p>
      ) : null}
      {question ? (
        <p role="alert" className="flex flex-wrap items-center gap-2 py-1 text-small">
          <span className="min-w-0 flex-1">{question}</span>
          <Button data-testid="keep-value" onClick={() => form.agree(field)}>{t`Keep this value`}</Button>
        </p>
      ) : null}
    </div>
  );
}
