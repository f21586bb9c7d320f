import { ApiError } from './problem';

/** An error of the caller's, as it comes out of a thread, where classes are lost. */
export interface Refusal {
  refused: ConstructorParameters<typeof ApiError>;
}

/** Does some work in a thread; what is the caller's fault becomes its result. */
export async function orRefusal<Result>(work: () => Result | Promise<Result>): Promise<Result | Refusal> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof ApiError) return { refused: [error.status, error.title, error.detail, error.extra] };
    throw error;
  }
}

/** The result of a thread. @throws ApiError where it refused */
export function unlessRefused<Result extends object>(result: Result | Refusal): Result {
  if ('refused' in result) throw new ApiError(...result.refused);
  return result;
}
