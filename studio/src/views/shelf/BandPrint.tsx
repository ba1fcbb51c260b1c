/** The average spectrum of a project's sound as a small silhouette, low to high. */
export function BandPrint({ heights }: { heights: number[] }) {
  if (heights.length === 0) return <span className="text-sm text-mist">no sound files</span>;
  const top = 24;
  const points = heights.map((height, i) => `${i + 0.5},${(top - height * (top - 1)).toFixed(2)}`);
  return (
    <svg
      viewBox={`0 0 ${heights.length} ${top}`}
      preserveAspectRatio="none"
      className="h-9 w-44 text-brass"
      role="img"
      aria-label="Average spectrum, low to high"
    >
      <polygon
        points={`0,${top} ${points.join(" ")} ${heights.length},${top}`}
        fill="currentColor"
        opacity="0.75"
      />
    </svg>
  );
}
