/** Calculations that take too long for the thread that answers. */
import { orRefusal, type Refusal } from '../api/refusal';
import { calculateSlice, prepare, type Calculation, type Prepared } from './work';

export type CalculateTask = { kind: Calculation; body: Uint8Array } | { kind: Calculation; slice: Uint8Array };

export default function calculate(task: CalculateTask): Promise<Uint8Array | Prepared | Refusal> {
  return orRefusal<Uint8Array | Prepared>(() =>
    'slice' in task ? calculateSlice(task.kind, task.slice) : prepare(task.kind, Buffer.from(task.body)),
  );
}
