/** Calculations that take too long for the thread that answers. */
import { ApiError } from '../api/problem';
import { calculateSlice, prepare, type Calculation, type Prepared } from './work';

export type CalculateTask = { kind: Calculation; body: Uint8Array } | { kind: Calculation; slice: Uint8Array };
/** An error of the caller's, as it comes out of a thread. */
export type Refusal = { refused: ConstructorParameters<typeof ApiError> };

export default function calculate(task: CalculateTask): Uint8Array | Prepared | Refusal {
  if ('slice' in task) return calculateSlice(task.kind, task.slice);
  try {
    return prepare(task.kind, Buffer.from(task.body));
  } catch (error) {
    if (error instanceof ApiError) return { refused: [error.status, error.title, error.detail, error.extra] };
    throw error;
  }
}
