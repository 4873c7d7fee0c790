/** Stars to look at and to give. */
import type { MouseEvent } from "react";
import "./table.css";

interface Props {
  value: number;
  onChange?: (stars: number) => void;
  label: string;
}

const MOST = 5;

/** One to five stars; a click on the present number takes them away. By key they are given with 0 to 5. */
export function Stars({ value, onChange, label }: Props) {
  const give = (event: MouseEvent<HTMLSpanElement>) => {
    if (!onChange) return;
    event.stopPropagation();
    const { left, width } = event.currentTarget.getBoundingClientRect();
    const stars = Math.min(MOST, Math.floor((MOST * (event.clientX - left)) / width) + 1);
    onChange(stars === value ? 0 : stars);
  };
  return (
    // One element, for there are as many of these as rows; its keys are the list's.
    // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-noninteractive-element-interactions
    <span
      role="img"
      aria-label={`${label}: ${value} of ${MOST} stars`}
      className={onChange ? "stars given" : "stars"}
      style={{ backgroundImage: `var(--stars-${value})` }}
      onClick={give}
      onDoubleClick={(event) => onChange && event.stopPropagation()}
    />
  );
}
