/** Calculations that take too long for the thread that answers. */
import { orRefusal, type Refusal } from '../api/refusal';
import { fitSurface } from './surface';
import { calculateSlice, prepare, type Calculation, type Prepared } from './work';

export type CalculateTask =
  | { kind: Calculation; body: Uint8Array }
  | { kind: Calculation; slice: Uint8Array }
  | { kind: 'surface'; body: Uint8Array };

export default function calculate(task: CalculateTask): Promise<Uint8Array | Prepared | Refusal> {
  return orRefusal<Uint8Array | Prepared>(() => {
    if ('slice' in task) return calculateSlice(task.kind, task.slice);
    const body = Buffer.from(task.body);
    return task.kind === 'surface' ? fitSurface(body) : prepare(task.kind, body);
  });
}
