/** What is asked of something that is not in the state for it. */
export class StateError extends Error {}

/** What really went wrong: the query builder wraps the error of the database. */
export function causeOf(error: unknown): unknown {
  return error instanceof Error && error.cause instanceof Error ? error.cause : error;
}

/** What really went wrong, in words. */
export function messageOf(error: unknown): string {
  const cause = causeOf(error);
  return cause instanceof Error ? cause.message : String(cause);
}
