/** The comfortable range as a ruled line: a bar to the value, from zero where the range has both signs; dashes past its end. */
export function RangeRule({ value, low, high }: { value: number; low: number; high: number }) {
  const at = (v: number) => Math.min(Math.max(((v - low) / (high - low)) * 100, 0), 100);
  const zero = low < 0 && high > 0 ? at(0) : 0;
  const tick = at(value);
  const beyond = value > high || value < low;
  return (
    <div className={`range-rule${beyond ? " beyond" : ""}`} aria-hidden="true">
      <span className="bar" style={{ left: `${Math.min(zero, tick)}%`, width: `${Math.abs(tick - zero)}%` }} />
      <span className="tick" style={{ left: `${tick}%` }} />
    </div>
  );
}
