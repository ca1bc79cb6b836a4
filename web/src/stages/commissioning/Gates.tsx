import type { Gate } from "../../api/client";
import { useQuantities } from "../../app/context";
import { Mark } from "../../ui/Mark";

/** The gates that hold back a sign-off, each with its reason; a good word where there is none. */
export function Gates({ gates }: { gates: Gate[] }) {
  const q = useQuantities();
  if (gates.length === 0)
    return (
      <p className="flex items-center gap-2">
        <Mark level="good" silent /> No gate is open.
      </p>
    );
  return (
    <ul aria-label="Open gates">
      {gates.map((g) => (
        <li key={`${g.code} ${g.subject}`} data-gate={g.code} className="flex gap-2 border-t border-hair py-1.5">
          <Mark level="stop" silent />
          <span>
            <span className="block font-medium">{g.name}</span>
            <span className="block text-small text-ink-2">{q.say(g.say, g.values)}</span>
          </span>
        </li>
      ))}
    </ul>
  );
}
