import { ApiError } from '$lib/server/api';
import { FinderError } from '$lib/server/finder';

/** What work brings; what cannot be looked for is refused with its place. */
export async function orRefused<T>(work: () => T | Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof FinderError)) throw error;
    const { path, reason: message, message: detail } = error;
    throw new ApiError(422, 'Not to be looked for', detail, { errors: [{ path, message }] });
  }
}
