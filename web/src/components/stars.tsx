/** Stars to look at and to give. */
import type { MouseEvent } from "react";
import "./table.css";

interface Props {
  value: number;
  onChange?: (stars: number) => void;
  label: string;
}

const STARS = [1, 2, 3, 4, 5];

/** One to five stars; a click on the present number takes them away. */
export function Stars({ value, onChange, label }: Props) {
  const give = (n: number) => (event: MouseEvent) => {
    event.stopPropagation();
    onChange?.(n === value ? 0 : n);
  };
  const still = (event: MouseEvent) => event.stopPropagation();
  return (
    <span role="group" aria-label={`${label}: ${value} of 5 stars`} className="stars">
      {STARS.map((n) => {
        const look = n <= value ? "star on" : "star";
        if (!onChange)
          return (
            <span key={n} className={look}>
              ★
            </span>
          );
        return (
          <button
            key={n}
            type="button"
            tabIndex={-1}
            aria-label={`${n} stars`}
            className={look}
            onClick={give(n)}
            onDoubleClick={still}
          >
            ★
          </button>
        );
      })}
    </span>
  );
}
