/** What is asked of something that is not in the state for it. */
export class StateError extends Error {}

/** What has been changed by somebody else since whoever wants to change it has seen it. */
export class ConflictError extends StateError {
  /** @param current what it is now */
  constructor(
    what: string,
    readonly current: Record<string, unknown>,
  ) {
    super(`${what} has been changed since by somebody else`);
  }
}

/** What really went wrong: the query builder wraps the error of the database. */
export function causeOf(error: unknown): unknown {
  return error instanceof Error && error.cause instanceof Error ? error.cause : error;
}

/** What really went wrong, in words. */
export function messageOf(error: unknown): string {
  const cause = causeOf(error);
  return cause instanceof Error ? cause.message : String(cause);
}
