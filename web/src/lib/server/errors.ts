/** Raised for a request that does not fit the state of its object. */
export class StateError extends Error {}

/** Raised where somebody else has changed an object since the caller read it. */
export class ConflictError extends StateError {
  /** @param current what it is now */
  constructor(
    what: string,
    readonly current: Record<string, unknown>,
  ) {
    super(`${what} has been changed since by somebody else`);
  }
}

/** The underlying error: the query builder wraps that of the database. */
export function causeOf(error: unknown): unknown {
  return error instanceof Error && error.cause instanceof Error ? error.cause : error;
}

/** The message of the underlying error. */
export function messageOf(error: unknown): string {
  const cause = causeOf(error);
  return cause instanceof Error ? cause.message : String(cause);
}
