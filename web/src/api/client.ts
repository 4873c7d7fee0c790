/** The way to the server: typed requests, refusals in its own words, and what an answer says has changed. */
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schema = components["schemas"];
export type Track = Schema["TrackOut"];
export type Workbench = Schema["WorkbenchOut"];
export type Grid = Schema["GridOut"];
export type Cue = Schema["CueOut"];
export type Proposal = Schema["ProposalOut"];
export type Route = Schema["RouteOut"];
export type Part = Schema["LocksIn"]["part"];
export type Crate = Schema["CrateOut"];
export type Stick = Schema["StickOut"];
export type ImportRun = Schema["ImportOut"];
export type Job = Schema["JobOut"];
export type Condition = Schema["ConditionIn"];
/** A sentence that is offered while one types. */
export type Offered = Schema["LimitOut"];
export type Family = Schema["FamilyOut"];
export type Tag = Schema["TagOut"];
export type EditName = Schema["CommonIn"]["fields"][number];
export type ServerEvent = Schema["ServerEvent"];

/** Chosen tracks, by their ids or as a stretch of what was found, and how many they are. */
export interface Picked {
  chosen: Schema["Chosen"];
  count: number;
}

export const only = (...ids: number[]): Picked => ({ chosen: { ids }, count: ids.length });

export const client = createClient<paths>({ baseUrl: "" });

/** A refusal by the server, in its own words. */
export class ApiError extends Error {
  constructor(
    message: string,
    /** That of HTTP; null where nothing answered. */
    readonly status: number | null = null,
  ) {
    super(message);
  }
}

/** No answer at all. */
export class NoAnswer extends ApiError {}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of an answer, or its message as an error. */
export async function unwrap<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await request;
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new NoAnswer(
      "Vinyl's server does not answer. Is it still running? Start it again with ./vinyl start.",
    );
  }
  if (!answer.response.ok)
    throw new ApiError(messageOf(answer.error, answer.response.status), answer.response.status);
  return answer.data as T;
}

function messageOf(error: unknown, status: number): string {
  if (typeof error === "object" && error !== null && "detail" in error && typeof error.detail === "string")
    return error.detail;
  return `The server refused this (${status}).`;
}
