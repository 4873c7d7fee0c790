/** Styles of the page as a whole, and the pictures that its styles name. */
import type { Theme } from "@mui/material/styles";
import { ringImages } from "./components/key-ring";
import { svgImage } from "./components/svg-image";
import { TYPE_PX, variables, type Inks, type TypeSize } from "./theme";

/** What holds for the whole page. Rules on every ::before and ::after are left out: they would be looked up for each cell. */
export function pageStyles({ inks, typography }: Theme, size: TypeSize) {
  return {
    "*": { boxSizing: "border-box" },
    html: { fontSize: TYPE_PX[size], WebkitTextSizeAdjust: "100%" },
    body: {
      ...typography.body1,
      margin: 0,
      overflow: "hidden",
      color: inks.ink,
      background: inks.paper,
    },
    "strong, b": { fontWeight: typography.fontWeightBold },
    ":root": { ...variables(inks), ...starImages(inks), ...ringImages(inks) },
    "*:focus-visible": { outline: `2px solid ${inks.chosen}`, outlineOffset: 1 },
    "::selection": { background: inks.chosenWash },
  } as const;
}

const STAR = "M10 .8l2.7 6.5 7 .4-5.4 4.5 1.8 6.8-6.1-3.7-6.1 3.7 1.8-6.8L.3 7.7l7-.4z";

/** Five stars as a picture for each number of them: a picture is drawn much faster than a clipped ground. */
function starImages({ ink, rule }: Inks): Record<string, string> {
  const picture = (given: number) => {
    const stars = [0, 1, 2, 3, 4].map(
      (at) => `<path transform="translate(${at * 20})" fill="${at < given ? ink : rule}" d="${STAR}"/>`,
    );
    return svgImage(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 20">${stars.join("")}</svg>`);
  };
  return Object.fromEntries([0, 1, 2, 3, 4, 5].map((given) => [`--stars-${given}`, picture(given)]));
}
