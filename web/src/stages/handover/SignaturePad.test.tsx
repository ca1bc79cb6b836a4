import { Speaking } from "../../words/Speaking";
import { fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import { SignaturePad, type Strokes } from "./SignaturePad";

function Held({ told }: { told: (strokes: Strokes) => void }) {
  const [strokes, setStrokes] = useState<Strokes>([]);
  return (
    <SignaturePad
      strokes={strokes}
      change={(s) => {
        setStrokes(s);
        told(s);
      }}
    />
  );
}

it("keeps strokes as points from 0 to 1000 of its field, thinned, held within it, and wipes them", () => {
  let strokes: Strokes = [];
  render(<Held told={(s) => (strokes = s)} />, { wrapper: Speaking });
  const pad = screen.getByRole("img", { name: "Field for a handwritten name" });
  pad.getBoundingClientRect = () => ({ left: 100, top: 50, width: 200, height: 100 }) as DOMRect;
  pad.setPointerCapture = () => undefined;
  fireEvent.pointerDown(pad, { clientX: 100, clientY: 50, pointerId: 1 });
  fireEvent.pointerMove(pad, { clientX: 200, clientY: 100, pointerId: 1 });
  fireEvent.pointerMove(pad, { clientX: 200.2, clientY: 100, pointerId: 1 });
  fireEvent.pointerMove(pad, { clientX: 900, clientY: 900, pointerId: 1 });
  fireEvent.pointerUp(pad, { pointerId: 1 });
  expect(strokes).toEqual([
    [
      [0, 0],
      [500, 500],
      [1000, 1000],
    ],
  ]);
  // A dot is no stroke.
  const drawn = screen.getByRole("img", { name: "Handwritten name" });
  fireEvent.pointerDown(drawn, { clientX: 150, clientY: 60, pointerId: 2 });
  fireEvent.pointerUp(drawn, { pointerId: 2 });
  expect(strokes).toHaveLength(1);
  fireEvent.click(screen.getByRole("button", { name: "Clear field" }));
  expect(strokes).toEqual([]);
});
