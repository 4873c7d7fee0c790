/** How far the analysis is in doubt, as a block that grows. */
import "./table.css";

/** How far a result should be checked by ear: the longer and more ochre, the more. */
export function Doubt({ value, reasons }: { value: number | null | undefined; reasons: string[] }) {
  if (value === null || value === undefined) return null;
  const words = reasons.length ? reasons.join("; ") : value < 0.1 ? "sure" : "fairly sure";
  const text = `Doubt ${Math.round(value * 100)} of 100: ${words}`;
  return (
    <div
      role="img"
      aria-label={text}
      title={text}
      className={value >= 0.3 ? "doubt much" : "doubt"}
      style={{ width: 6 + 28 * value }}
    />
  );
}
