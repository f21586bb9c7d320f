import type { WorthBy } from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '../../api';
import type { Database } from '../db';
import { numeraireIn, positionAnswer, positionsAnswer, riskAnswer, worthAnswer } from './answers';
import { betasTo } from './betas';
import { remembered, type HeldBooks } from './held';
import { explainAnswer, profitsAnswer, replayAnswer, type LivedAsked } from './lived';
import type { Markets } from '../market/known-markets';
import { scenarioAnswer, type ScenarioAsked } from './scenario';
import { bookWorth } from './worth';

/** What is to be worked out of a book; null moments are the latest. */
export type BookTask = { bookId: number; asof: number | null; ghost?: number | null; by?: WorthBy } & (
  | { kind: 'worth'; beta: string | null }
  | { kind: 'positions' }
  | { kind: 'position'; id: number }
  | { kind: 'risk'; level: z.infer<typeof schemas.BookRiskQuery>['by']; inSymbol: string | null }
  | { kind: 'scenario'; asked: ScenarioAsked }
  | { kind: 'explain'; asked: LivedAsked }
  | { kind: 'profits'; asked: Parameters<typeof profitsAnswer>[3] }
  | { kind: 'replay'; asked: Omit<Parameters<typeof replayAnswer>[3], 'to'> & { to: number | null } }
);

/** The answer of a task; null where there is no such book. */
export async function bookAnswer(
  database: Database,
  markets: Markets,
  books: HeldBooks,
  task: BookTask,
): Promise<object | null> {
  const { bookId, asof, ghost = null, by = 'mid' } = task;
  const held = await books.get(bookId);
  if (!held) return null;
  const worthOf = () => {
    const key = `worth ${asof} ${ghost} ${by}`;
    return remembered(held, key, () => bookWorth(markets, held, { asof, ghost, by }));
  };
  switch (task.kind) {
    case 'worth':
      return remembered(held, `told ${asof} ${ghost} ${by} ${task.beta}`, async () => {
        const worth = await worthOf();
        const betaOf = task.beta === null ? () => null : await betasTo(database, worth, task.beta);
        return worthAnswer(database, held.stored, worth, betaOf);
      });
    case 'positions':
      return positionsAnswer(held.stored, await worthOf());
    case 'position':
      return positionAnswer(held.stored, await worthOf(), task.id);
    case 'risk': {
      const worth = await worthOf();
      return riskAnswer(worth, task.level, task.inSymbol === null ? null : numeraireIn(worth, task.inSymbol));
    }
    case 'scenario': {
      const { beta } = task.asked;
      const worth = await worthOf();
      const betaOf = beta === undefined ? () => 1 : await betasTo(database, worth, beta);
      return scenarioAnswer(markets, worth, task.asked, betaOf);
    }
    case 'explain':
      return explainAnswer(markets, database, held, task.asked);
    case 'profits':
      return remembered(held, `profits ${JSON.stringify(task.asked)}`, () =>
        profitsAnswer(markets, database, held, task.asked),
      );
    case 'replay': {
      const to = task.asked.to ?? (await markets.latest([], null)) ?? Date.now();
      return replayAnswer(markets, database, held, { ...task.asked, to });
    }
  }
}
