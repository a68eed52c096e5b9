/** The one way to the server: typed calls, the CSRF token, and problems in words. */
import createClient, { type Middleware } from "openapi-fetch";
import { connection } from "./connection";
import { Problem } from "./problem";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

let token = "";

export function rememberToken(told: string): void {
  token = told;
}

/** For the one request that goes another way. */
export function csrfToken(): string {
  return token;
}

const withToken: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRF-Token", token);
    return request;
  },
};

export const api = createClient<paths>({ baseUrl: "", credentials: "same-origin" });
api.use(withToken);

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** Wait for an answer and take its data, or throw the problem it holds. */
export async function take<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch (reason) {
    // Taken back because something else is asked for now: that says nothing of the connection.
    if (reason instanceof DOMException && reason.name === "AbortError") throw reason;
    connection.lost();
    throw new Problem(
      0,
      "The connection is lost",
      "Nothing is lost: what was there is kept on the server. This page tries again by itself.",
    );
  }
  if (answer.response.ok) {
    connection.well();
    return answer.data as T;
  }
  const found = answer.error as Partial<Schemas["ProblemDocument"]> | undefined;
  const problem = new Problem(
    answer.response.status,
    found?.title ?? "The server gave no readable answer",
    found?.detail ?? "Try again in a moment.",
    found?.type,
    found?.now,
  );
  if (problem.isPassing) connection.lost();
  else connection.well();
  throw problem;
}
