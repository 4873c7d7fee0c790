/** A tag: its name with the sign and the colour of its own or of its family. */
import { useTheme } from "@mui/material/styles";
import { cueColour } from "../theme";
import type { TagLook } from "./tags";
import "./table.css";

export function TagChip({ look }: { look: TagLook }) {
  const { inks } = useTheme();
  return (
    <span className="tag" title={`${look.family.name}: ${look.tag.name}`}>
      {look.sign && (
        <span aria-hidden style={{ color: cueColour(look.colour, inks) }}>
          {look.sign}{" "}
        </span>
      )}
      {look.tag.name}
    </span>
  );
}
