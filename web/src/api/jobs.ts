/** Work in the background: holding it, and waiting for what it finds. */
import { useChange } from "./changes";
import { ApiError, client, unwrap, type Job } from "./client";

const ASK_MS = 250;

export const isOpen = (job: Job): boolean => ["waiting", "running", "paused"].includes(job.state);

/** How far a job is, from 0 to 1; null where there is no telling. */
export function shareOf(job: Job): number | null {
  return job.total ? job.done / job.total : null;
}

/** The job once it has ended well. If the one who asked goes away, the job is cancelled. */
export async function finished(begun: Job, signal?: AbortSignal): Promise<Job> {
  const path = { job_id: begun.id };
  let job = begun;
  while (isOpen(job)) {
    await new Promise((resolve) => setTimeout(resolve, ASK_MS));
    if (signal?.aborted) {
      await client.POST("/api/jobs/{job_id}/cancel", { params: { path } });
      throw new ApiError("This was cancelled.");
    }
    job = await unwrap(client.GET("/api/jobs/{job_id}", { params: { path } }));
  }
  if (job.state !== "done") throw new ApiError(job.error ?? "This was cancelled.");
  return job;
}

/** Pause, resume, cancel, or do again what was left undone. */
export function useJobActions() {
  const at = (job: Job) => ({ params: { path: { job_id: job.id } } });
  return {
    pause: useChange((job: Job) => unwrap(client.POST("/api/jobs/{job_id}/pause", at(job)))),
    resume: useChange((job: Job) => unwrap(client.POST("/api/jobs/{job_id}/resume", at(job)))),
    cancel: useChange((job: Job) => unwrap(client.POST("/api/jobs/{job_id}/cancel", at(job)))),
    putBack: useChange((job: Job) => unwrap(client.POST("/api/jobs/{job_id}/put-back", at(job)))),
    retry: useChange((job: Job) => unwrap(client.POST("/api/jobs/{job_id}/retry", at(job)))),
  };
}
