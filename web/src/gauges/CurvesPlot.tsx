import { useEffect, useRef } from "react";
import uPlot from "uplot";
import type { Curves } from "../api/client";
import { useTheme } from "../ui/theme";

const DASHES = [[], [5, 3], [2, 2]];

/** Curves over an axis; told apart by their strokes and their names. */
export function CurvesPlot({ curves }: { curves: Curves }) {
  const box = useRef<HTMLDivElement>(null);
  const theme = useTheme();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the ink is read from the page, which has that of its theme
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const ink = getComputedStyle(element).color;
    const hair = getComputedStyle(element).getPropertyValue("--hair");
    const axis = {
      stroke: ink,
      font: "10px IBM Plex Mono",
      grid: { stroke: hair, width: 0.5 },
      ticks: { stroke: hair, width: 0.5, size: 4 },
    };
    const options: uPlot.Options = {
      width: element.clientWidth,
      height: Math.max(90, element.clientHeight),
      scales: { x: { time: false }, y: { range: [curves.y.low, curves.y.high] } },
      axes: [
        { ...axis, size: 26, values: (_, ticks) => ticks.map((t) => `${t}${curves.x.unit === "°" ? "°" : ""}`) },
        { ...axis, size: 34 },
      ],
      series: [
        {},
        ...curves.curves.map((curve, i) => ({ label: curve.label, stroke: ink, width: 1.4, dash: DASHES[i] })),
      ],
      cursor: { show: false },
      hooks: { draw: [(plot) => drawMarks(plot, curves, ink)] },
    };
    const plot = new uPlot(options, [curves.x.values, ...curves.curves.map((c) => c.values)], element);
    const wide = new ResizeObserver(() =>
      plot.setSize({ width: element.clientWidth, height: Math.max(90, element.clientHeight) }),
    );
    wide.observe(element);
    return () => {
      wide.disconnect();
      plot.destroy();
    };
  }, [curves, theme]);
  return (
    <figure className="flex h-full flex-col" data-testid="curves">
      <div ref={box} className="min-h-24 grow overflow-hidden" />
      <figcaption className="text-[var(--mute)]">
        {curves.curves.length > 1 && (
          <span className="mr-2">
            {curves.curves.map((curve, i) => `${["——", "– –", "···"][i]} ${curve.label}`).join("   ")}.
          </span>
        )}
        {curves.caption}
      </figcaption>
    </figure>
  );
}

function drawMarks(plot: uPlot, curves: Curves, ink: string): void {
  const { ctx, bbox } = plot;
  const ratio = window.devicePixelRatio;
  ctx.save();
  ctx.strokeStyle = ctx.fillStyle = ink;
  ctx.font = `${10 * ratio}px "IBM Plex Sans"`;
  curves.marks.forEach((mark, i) => {
    const x = plot.valToPos(mark.x, "x", true);
    const right = x > bbox.left + bbox.width * 0.7;
    ctx.textAlign = right ? "right" : "left";
    ctx.setLineDash([ratio, 2 * ratio]);
    ctx.beginPath();
    ctx.moveTo(x, bbox.top);
    ctx.lineTo(x, bbox.top + bbox.height);
    ctx.stroke();
    ctx.fillText(mark.label, x + (right ? -3 : 3) * ratio, bbox.top + (11 + i * 12) * ratio);
  });
  ctx.restore();
}
