import classes from "./Strokes.module.css";

type Props = { left: number | null | undefined; max: number | null | undefined; set: string };

/** Tries left as chalk strokes, with the number in words. */
export function Strokes({ left, max, set }: Props) {
  if (left == null || max == null) return <span>Any number of tries on Set {set}</span>;
  return (
    <span className={classes.strokes} data-testid="tries-left">
      <svg viewBox={`0 0 ${max * 12 + 4} 26`} height="24" width={max * 12 + 4} aria-hidden="true">
        {Array.from({ length: max }, (_, i) => (
          <path
            // biome-ignore lint/suspicious/noArrayIndexKey: strokes have no other name
            key={i}
            d={`M${i * 12 + 9} 3 l-2.5 20`}
            stroke="currentColor"
            strokeWidth="3"
            strokeLinecap="round"
            opacity={i < left ? 1 : 0.18}
          />
        ))}
      </svg>
      {left === 1 ? `1 of ${max} tries left` : `${left} of ${max} tries left`} on Set {set}
    </span>
  );
}
