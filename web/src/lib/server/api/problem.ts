import type { ZodError } from 'zod';

export interface FieldError {
  path: string;
  message: string;
}

/** An answer that is an error of the caller's, as problem details (RFC 9457). */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly extra: { errors?: FieldError[] } & Record<string, unknown> = {},
  ) {
    super(detail);
  }
}

/** The error for input that does not meet its schema, with the place of each fault. */
export function invalidInput(error: ZodError): ApiError {
  const errors = error.issues.slice(0, 100).map((issue) => ({ path: issue.path.join('.'), message: issue.message }));
  const first = errors[0];
  const more = error.issues.length > 1 ? `, and ${error.issues.length - 1} more` : '';
  return new ApiError(400, 'Invalid input', `${first?.path || 'the input'}: ${first?.message}${more}`, { errors });
}

/** A response of problem details. */
export function problem(status: number, title: string, detail: string, extra: Record<string, unknown> = {}): Response {
  return new Response(JSON.stringify({ type: 'about:blank', status, title, detail, ...extra }), {
    status,
    headers: { 'content-type': 'application/problem+json' },
  });
}
