/** What sounds like the open track. */
import { Box, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Schema } from "../../api/client";
import { alikeQuery } from "../../api/queries";

const RELATIONS: Record<Schema["AlikeOut"]["relation"], string> = {
  same: "same recording",
  edit: "another edit",
  "same backing": "same backing",
  different: "",
};

/** What another track has to do with this one; two copies that begin at another time say by how much. */
function relationOf({ relation, later_s }: Schema["AlikeOut"]): string {
  const ms = Math.round(1000 * (later_s ?? 0));
  if (!ms) return RELATIONS[relation];
  return `${RELATIONS[relation]}, ${Math.abs(ms / 1000).toFixed(3)} s ${ms > 0 ? "later" : "earlier"}`;
}

/** The tracks that sound most like this one; the same recording in another file is named as such. */
export function Alike({ id }: { id: number }) {
  const { data = [] } = useQuery(alikeQuery(id));
  if (!data.length) return null;
  return (
    <Box>
      <Typography variant="overline">Sounds like this</Typography>
      <Box component="ol" sx={{ listStyle: "none", m: 0, p: 0, fontSize: "0.8rem" }}>
        {data.map((other) => (
          <Box
            component="li"
            key={other.track_id}
            sx={{ display: "flex", gap: 1, alignItems: "baseline", minWidth: 0 }}
          >
            <Box
              component={Link}
              to={`/workbench/${other.track_id}`}
              title={`${other.title}, ${other.artist}: alike ${Math.round(other.likeness * 100)} of 100`}
              sx={{
                color: "text.primary",
                textDecorationColor: "transparent",
                overflow: "hidden",
                textOverflow: "ellipsis",
                whiteSpace: "nowrap",
                "&:hover": { textDecorationColor: "currentcolor" },
              }}
            >
              {other.title}
            </Box>
            <Box
              component="span"
              sx={{ color: "secondary.main", fontSize: "0.72rem", whiteSpace: "nowrap", ml: "auto" }}
            >
              {relationOf(other)}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
