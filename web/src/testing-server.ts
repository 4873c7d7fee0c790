/** A server for tests, that answers as it is told. To be imported first: the client keeps what it finds when it is made. */
interface Asked {
  what: string;
  body: unknown;
}

/** An answer, or what makes one of the body that was sent. */
type Answer = unknown;

let answers: Record<string, Answer> = {};
let asked: Asked[] = [];

/** Answers requests ("POST /api/crates") with what is given for them, and notes what was asked. */
export function serve(given: Record<string, Answer>): Asked[] {
  [answers, asked] = [given, []];
  return asked;
}

const OriginalRequest = globalThis.Request;
globalThis.Request = class extends OriginalRequest {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, "http://vinyl.test") : input, init);
  }
};
globalThis.fetch = async (request) => {
  const { method, url, text } = await read(request as Request);
  const what = `${method} ${new URL(url).pathname}`;
  const body = text ? (JSON.parse(text) as unknown) : null;
  asked.push({ what, body });
  const answer = answers[what];
  if (answer instanceof Response) return answer.clone();
  if (typeof answer === "function") return Response.json(await (answer as (body: unknown) => unknown)(body));
  if (what in answers) return Response.json(answer);
  return Response.json({ detail: `Nothing answers ${what}.` }, { status: 501 });
};

const read = async (request: Request) => ({
  method: request.method,
  url: request.url,
  text: await request.text(),
});
