import type { BasisChoice } from '@umwelt/core';
import { chainAnswer, surfaceAnswer } from './answers';
import { evaluatedAnswer, type EvaluatedTask } from './evaluated';
import type { StoredSnapshot } from './queries';
import type { Underlying } from './terms';

/** What is to be computed of a snapshot, and how it is to be written. */
export type ValuedTask =
  | EvaluatedTask
  | ({ underlying: Underlying; stored: StoredSnapshot } & (
      | { kind: 'chain'; choice: BasisChoice; layout: 'rows' | 'columns' }
      | { kind: 'surface'; events: readonly number[] }
    ));

/** Rows as a list for each of their fields. */
function columnsOf<Row extends object>(rows: readonly Row[]): Record<string, unknown[]> {
  const names = Object.keys(rows[0] ?? {}) as (keyof Row & string)[];
  return Object.fromEntries(names.map((name) => [name, rows.map((row) => row[name])]));
}

function valuedText(task: ValuedTask): string {
  if (task.kind === 'structure') return JSON.stringify(evaluatedAnswer(task));
  const { underlying, stored } = task;
  if (task.kind === 'surface') return JSON.stringify(surfaceAnswer(underlying, stored, task.events));
  const answer = chainAnswer(underlying, stored, task.choice);
  return JSON.stringify(task.layout === 'columns' ? { ...answer, contracts: columnsOf(answer.contracts) } : answer);
}

/** The answer of a task, as it is sent. */
export function valuedBytes(task: ValuedTask): Uint8Array {
  return Buffer.from(valuedText(task));
}
