/** What was written: each with how many values were read back as promised, and those that were not. */
import { Alert, Box, ButtonBase, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { client, unwrap, type Schema } from "../../api/client";
import { isOpen } from "../../api/jobs";
import { jobsQuery } from "../../api/queries";
import { Empty } from "../../components/empty";
import { ago, fieldName, plural } from "../../components/format";
import { JobLine } from "../../components/job-line";
import { FIGURES } from "../../theme";
import { carryingsQuery, type Target } from "./use-exchange";
import { linesOf } from "./words";

type Report = Schema["ReportOut"];
type ReportLine = Schema["ReportLine"];

interface Props {
  targets: readonly Target[];
  open: number | null;
  onOpen: (jobId: number) => void;
}

export function ReportsView({ targets, open, onOpen }: Props) {
  const reports = useQuery(carryingsQuery).data;
  const jobs = useQuery(jobsQuery).data ?? [];
  if (!reports) return null;
  if (!reports.length)
    return (
      <Empty title="Nothing was written yet">
        <p>What is carried to another library is read back and compared; the report stands here.</p>
      </Empty>
    );
  const shown = reports.find(({ job_id }) => job_id === open) ?? reports[0];
  const job = jobs.find(({ id }) => id === shown?.job_id);
  return (
    <Box sx={{ minWidth: 0, overflow: "auto", px: 3, py: 2, display: "flex", gap: 4 }}>
      <Box sx={{ width: "17rem", flex: "none" }}>
        {reports.map((line) => (
          <Choice key={line.job_id} line={line} open={line === shown} onOpen={() => onOpen(line.job_id)} />
        ))}
      </Box>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        {job && (isOpen(job) || job.failures > 0 || job.state !== "done" || job.can_put_back) && (
          <JobLine job={job} />
        )}
        {shown?.state === "done" && <OneReport jobId={shown.job_id} targets={targets} />}
        {shown && shown.state !== "done" && shown.error && !job && (
          <Alert severity="error">{shown.error}</Alert>
        )}
      </Box>
    </Box>
  );
}

function Choice({ line, open, onOpen }: { line: ReportLine; open: boolean; onOpen: () => void }) {
  const says =
    line.state === "done"
      ? `${line.equal.toLocaleString("en")} of ${plural(line.values, "value")}`
      : line.state;
  return (
    <ButtonBase
      onClick={onOpen}
      aria-current={open}
      sx={{
        ...{
          font: "inherit",
          display: "block",
          width: "100%",
          textAlign: "left",
          py: 0.8,
          px: 1,
          borderTop: 1,
          borderColor: "divider",
        },
        ...(open && { boxShadow: (theme) => `inset 3px 0 0 ${theme.palette.secondary.main}` }),
      }}
    >
      <Box sx={{ fontWeight: open ? 700 : 500, overflowWrap: "anywhere" }}>
        {line.subject.replace(/^to /, "")}
      </Box>
      <Box sx={{ color: "text.secondary", fontSize: "0.8rem" }}>
        {says}, {ago(line.at)}
      </Box>
    </ButtonBase>
  );
}

/** What was written: the tracks of the ledger, and those that lay there already and stay. */
function carried({ tracks, lists, ledger }: Report): string {
  const stay = tracks - ledger.tracks;
  const gone = stay > 0 ? `, ${stay.toLocaleString("en")} that were there already` : "";
  return `${plural(ledger.tracks, "track")}${gone} and ${plural(lists, "list")}`;
}

function OneReport({ jobId, targets }: { jobId: number; targets: readonly Target[] }) {
  const query = useQuery({
    queryKey: ["exchange", "report", jobId],
    queryFn: () =>
      unwrap(client.GET("/api/exchange/carryings/{job_id}", { params: { path: { job_id: jobId } } })),
    retry: false,
  });
  if (query.error) return <Alert severity="info">{query.error.message}</Alert>;
  if (!query.data) return null;
  const report = query.data;
  const target = targets.find(({ name }) => name === report.target);
  const equal = report.equal === report.values;
  return (
    <>
      <Typography variant="h1">
        {report.equal.toLocaleString("en")} of {plural(report.values, "value")} equal
      </Typography>
      <Box sx={{ color: equal ? "info.main" : "error.main", fontWeight: 600, mb: 1 }}>
        {carried(report)}, written and read back by {target?.label}’s own reader
        {equal ? ": all as the ledger promised." : `; ${plural(report.findings_count, "value")} differ.`}
      </Box>
      <Facts report={report} />
      {SHOWN.includes(report.target) && (
        <Box
          component="a"
          href={`/other-side/?${new URLSearchParams({ library: report.place }).toString()}`}
          target="_blank"
          rel="noreferrer"
          sx={{ color: "info.main" }}
        >
          See it as {target?.label} shows it
        </Box>
      )}
      <Findings report={report} />
      <Typography variant="h2" sx={{ mt: 2 }}>
        As the ledger had it
      </Typography>
      <LedgerShort report={report} />
    </>
  );
}

/** What has a reader of its own that shows it. */
const SHOWN: readonly Report["target"][] = ["reedbank", "tidewrack", "saltmarsh"];

function Facts({ report }: { report: Report }) {
  const rows = [
    ["It lies at", report.place],
    ["What was there before", report.kept ?? "nothing"],
  ];
  return (
    <Box
      component="dl"
      sx={{ display: "grid", gridTemplateColumns: "12rem 1fr", rowGap: 0.3, m: 0, fontSize: "0.88rem" }}
    >
      {rows.map(([name, text]) => (
        <Box key={name} sx={{ display: "contents" }}>
          <Box component="dt" sx={{ color: "text.secondary" }}>
            {name}
          </Box>
          <Box
            component="dd"
            sx={{ m: 0, fontFamily: FIGURES, fontSize: "0.82rem", overflowWrap: "anywhere" }}
          >
            {text}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

function Findings({ report }: { report: Report }) {
  if (!report.findings.length) return null;
  return (
    <Box sx={{ mt: 1.5 }}>
      <Typography variant="h2">What is not as promised</Typography>
      {report.findings.map((each, at) => (
        <Box
          key={at}
          sx={{
            ...{
              display: "grid",
              gridTemplateColumns: "1.4fr 1fr 1fr",
              gap: 1,
              fontSize: "0.84rem",
              py: 0.3,
            },
            ...{ borderTop: 1, borderColor: "divider", overflowWrap: "anywhere" },
          }}
        >
          <span>
            <b>{each.track}</b> {fieldName(each.what)}
          </span>
          <span>promised: {each.promised || "nothing"}</span>
          <span>found: {each.found || "nothing"}</span>
        </Box>
      ))}
      {report.findings_count > report.findings.length && (
        <Box sx={{ color: "text.secondary" }}>
          and {(report.findings_count - report.findings.length).toLocaleString("en")} more
        </Box>
      )}
    </Box>
  );
}

function LedgerShort({ report }: { report: Report }) {
  return (
    <Box
      component="table"
      sx={{ borderCollapse: "collapse", fontSize: "0.88rem", "& td, & th": { px: 1.2, py: 0.3 } }}
    >
      <thead>
        <tr>
          <th />
          <th>as it is</th>
          <th>changed</th>
          <th>left here</th>
        </tr>
      </thead>
      <tbody>
        {linesOf(report.ledger).map((line) => (
          <Box
            component="tr"
            key={line.kind}
            sx={{ borderTop: 1, borderColor: "divider", textAlign: "right" }}
          >
            <Box component="th" scope="row" sx={{ textAlign: "left" }}>
              {line.name}
            </Box>
            {Object.values(line.counts).map((count, at) => (
              <Box
                component="td"
                key={at}
                sx={{ fontFamily: FIGURES, color: count ? "inherit" : "text.secondary" }}
              >
                {count.toLocaleString("en")}
              </Box>
            ))}
          </Box>
        ))}
      </tbody>
    </Box>
  );
}
