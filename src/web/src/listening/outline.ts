/** The outline as one closed shape: the greatest samples from left to right, the least ones back. */
export function outlineOf(peaks: Int8Array): string {
  const count = peaks.length / 2;
  const x = (i: number) => Math.round((10_000 * i) / Math.max(1, count - 1)) / 10;
  // A line of half a unit at least, so that silence shows as silence and not as nothing.
  const y = (value: number, least: number) => Math.round(10 * (50 - (value / 127) * 48 + least)) / 10;
  const over = Array.from({ length: count }, (_, i) => `${x(i)} ${y(peaks[2 * i + 1] ?? 0, -0.8)}`);
  const under = Array.from({ length: count }, (_, i) => `${x(i)} ${y(peaks[2 * i] ?? 0, 0.8)}`).reverse();
  return `M${over.join("L")}L${under.join("L")}Z`;
}
