// What all charts share: colours from the tokens, one typeface, hair lines for the grid, words written at the curves.
import uPlot from "uplot";

export const colour = (token: string) => getComputedStyle(document.documentElement).getPropertyValue(`--color-${token}`);

export const FONT = "11px Archivo Variable";

/** An axis in the house style. */
export function axis(more: Partial<uPlot.Axis>): uPlot.Axis {
  return {
    stroke: colour("ink-2"),
    grid: { stroke: colour("hair"), width: 1 },
    font: FONT,
    labelFont: FONT,
    labelSize: 16,
    ...more,
  };
}

/** Write a word at a point of the chart, so many pixels off. */
export function word(u: uPlot, text: string, x: number, y: number, token: string, dx = 6, dy = -6) {
  const scale = devicePixelRatio;
  u.ctx.textAlign = "left";
  u.ctx.font = `${11 * scale}px Archivo Variable`;
  u.ctx.fillStyle = colour(token);
  // A word at the edge stands within it, whole.
  const rightmost = u.bbox.left + u.bbox.width - u.ctx.measureText(text).width;
  const left = Math.max(u.bbox.left + 4 * scale, Math.min(u.valToPos(x, "x", true) + dx * scale, rightmost));
  u.ctx.fillText(text, left, u.valToPos(y, "y", true) + dy * scale);
}

/** Draw a chart into a box for as long as it is there, as wide as the box; returns how to take it away. */
export function drawn(
  box: HTMLElement,
  height: number,
  options: Omit<uPlot.Options, "width" | "height">,
  data: uPlot.AlignedData,
): () => void {
  const chart = new uPlot(
    { legend: { show: false }, cursor: { show: false }, ...options, width: box.clientWidth, height },
    data,
    box,
  );
  const watch = new ResizeObserver(([entry]) => entry && chart.setSize({ width: entry.contentRect.width, height }));
  watch.observe(box);
  return () => {
    watch.disconnect();
    chart.destroy();
  };
}
