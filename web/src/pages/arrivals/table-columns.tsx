/** Which column of a table holds what, said in a sentence above its first rows. */
import { Box, MenuItem, Select, Table, TableBody, TableCell, TableHead, TableRow } from "@mui/material";
import type { Schema } from "../../api/client";

type Columns = Schema["ColumnsBody"];

interface Props {
  table: Schema["TableOut"];
  /** When it was played is asked for too. */
  played?: boolean;
  onChange: (columns: Columns) => void;
}

const NONE = -1;
const PARTS: { name: keyof Columns; words: string }[] = [
  { name: "artist", words: "The artist stands in" },
  { name: "title", words: "the title in" },
  { name: "path", words: "the file in" },
];
const PLAYED: (typeof PARTS)[number] = { name: "played", words: "when it was played in" };

export function TableColumns({ table, played, onChange }: Props) {
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mb: 1 }}>
        {[...PARTS, ...(played ? [PLAYED] : [])].map(({ name, words }) => (
          <Box key={name} component="span">
            {words}{" "}
            <Select
              size="small"
              variant="standard"
              value={table.columns[name] ?? NONE}
              SelectDisplayProps={{ "aria-label": `Column of the ${name}` }}
              onChange={(e) =>
                onChange({ ...table.columns, [name]: e.target.value === NONE ? null : e.target.value })
              }
            >
              <MenuItem value={NONE}>no column</MenuItem>
              {table.head.map((head, i) => (
                <MenuItem key={i} value={i}>
                  {head || `column ${i + 1}`}
                </MenuItem>
              ))}
            </Select>
          </Box>
        ))}
      </Box>
      <Box sx={{ overflow: "auto", maxHeight: 150 }}>
        <FirstRows table={table} />
      </Box>
    </Box>
  );
}

function FirstRows({ table }: { table: Schema["TableOut"] }) {
  return (
    <Table size="small">
      <TableHead>
        <TableRow>
          {table.head.map((head, i) => (
            <TableCell key={i}>{head}</TableCell>
          ))}
        </TableRow>
      </TableHead>
      <TableBody>
        {table.rows.map((row, i) => (
          <TableRow key={i}>
            {row.map((cell, j) => (
              <TableCell key={j} sx={{ whiteSpace: "nowrap" }}>
                {cell}
              </TableCell>
            ))}
          </TableRow>
        ))}
      </TableBody>
    </Table>
  );
}
