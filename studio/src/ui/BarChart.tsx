import type { ChartConfiguration, Chart as ChartType } from "chart.js";
import { useEffect, useRef } from "react";
import { themeColour } from "./strandLook";

/** A bar of a chart, and how it is coloured. */
export interface Bar {
  label: string;
  value: number;
  look: "plain" | "muted" | "strong";
}

interface Props {
  /** Description for people who cannot see it. */
  label: string;
  bars: readonly Bar[];
  /** Ends of the upright axis. */
  min: number;
  max: number;
  /** Marks between bars: drawn before the bar of that number. */
  marks?: readonly { before: number; text: string }[];
  /** A line across at a value, and what it is. */
  limit?: { at: number; text: string };
  /** Called with the number of a bar that is clicked. */
  onChoose?(index: number): void;
  theme: string;
  /** A value as text, for the pointer. */
  valueText(value: number): string;
  className?: string;
}

const MARK_FONT = "10px sans-serif";
const LOOKS = { plain: "mist", muted: "rule", strong: "brass" } as const;

/** A chart of bars that is read, not one that moves. Chart.js is loaded when the first is shown. */
export function BarChart({
  label,
  bars,
  min,
  max,
  marks = [],
  limit,
  onChoose,
  theme,
  valueText,
  className = "",
}: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const chart = useRef<ChartType>(undefined);
  const drawn = useRef({ marks, valueText, limit, onChoose });
  drawn.current = { marks, valueText, limit, onChoose };
  // biome-ignore lint/correctness/useExhaustiveDependencies: the theme decides the colours that are read from the page
  useEffect(() => {
    let isGone = false;
    const config: ChartConfiguration<"bar"> = {
      type: "bar",
      data: {
        labels: bars.map((bar) => bar.label),
        datasets: [
          {
            data: bars.map(({ value }) => value),
            backgroundColor: bars.map(({ look }) => themeColour(LOOKS[look])),
            base: min,
            barPercentage: 1,
            categoryPercentage: 0.9,
          },
        ],
      },
      options: {
        animation: false,
        interaction: { mode: "index", intersect: false },
        onClick: (_event, [element]) => element && drawn.current.onChoose?.(element.index),
        maintainAspectRatio: false,
        plugins: {
          legend: { display: false },
          tooltip: {
            displayColors: false,
            callbacks: { label: ({ raw }) => drawn.current.valueText(raw as number) },
          },
        },
        scales: {
          x: {
            grid: { display: false },
            ticks: { color: themeColour("mist"), maxRotation: 0, autoSkipPadding: 10, font: { size: 10 } },
          },
          y: {
            min,
            max,
            grid: { color: themeColour("rule") },
            ticks: { color: themeColour("mist"), maxTicksLimit: 4, font: { size: 10 } },
          },
        },
      },
      plugins: [
        {
          id: "marks",
          afterDatasetsDraw: ({ ctx, chartArea, scales: { x, y } }) => {
            const { limit } = drawn.current;
            if (limit !== undefined) {
              ctx.strokeStyle = themeColour("alarm");
              ctx.beginPath();
              const at = y.getPixelForValue(limit.at);
              ctx.moveTo(chartArea.left, at);
              ctx.lineTo(chartArea.right, at);
              ctx.stroke();
              ctx.fillStyle = themeColour("alarm");
              ctx.font = MARK_FONT;
              ctx.textAlign = "right";
              ctx.fillText(limit.text, chartArea.right - 3, at - 4);
            }
            for (const { before, text } of drawn.current.marks) {
              const half = (x.getPixelForValue(1) - x.getPixelForValue(0)) / 2;
              const at = x.getPixelForValue(before) - half;
              if (at < chartArea.left || at > chartArea.right) continue;
              ctx.strokeStyle = themeColour("brass");
              ctx.setLineDash([3, 3]);
              ctx.beginPath();
              ctx.moveTo(at, chartArea.top);
              ctx.lineTo(at, chartArea.bottom);
              ctx.stroke();
              ctx.setLineDash([]);
              ctx.fillStyle = themeColour("brass");
              ctx.font = MARK_FONT;
              const isLeft = at > (chartArea.left + chartArea.right) / 2;
              ctx.textAlign = isLeft ? "right" : "left";
              ctx.fillText(text, at + (isLeft ? -3 : 3), chartArea.top + 9);
            }
          },
        },
      ],
    };
    void import("chart.js").then(
      ({ BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip }) => {
        if (isGone || !canvas.current) return;
        Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);
        chart.current?.destroy();
        chart.current = new Chart(canvas.current, config) as unknown as ChartType;
      },
    );
    return () => {
      isGone = true;
      chart.current?.destroy();
      chart.current = undefined;
    };
  }, [bars, min, max, theme]);
  return (
    <div className={`relative min-w-0 ${className}`}>
      <canvas ref={canvas} role="img" aria-label={label} />
    </div>
  );
}
