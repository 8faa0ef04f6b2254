/** Share of the pixels at every tone, as an area; the highest peaks are cut so the rest shows. */
export function histogramPath(shares: number[], width: number, height: number): string {
  const sorted = [...shares].sort((a, b) => b - a);
  const most = Math.max(sorted[Math.min(3, sorted.length - 1)] ?? 0, 1e-6);
  const step = width / shares.length;
  const points = shares.map((share, index) => {
    const y = height - Math.min(1, Math.sqrt(share / most)) * height;
    return `${(index + 0.5) * step} ${y.toFixed(2)}`;
  });
  return `M0 ${height} L${points.join(" L")} L${width} ${height} Z`;
}
