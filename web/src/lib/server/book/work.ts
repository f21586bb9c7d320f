import type { z } from 'zod';
import type { schemas } from '../../api';
import type { Database } from '../db';
import { numeraireIn, positionAnswer, positionsAnswer, riskAnswer, worthAnswer } from './answers';
import { betasTo } from './betas';
import { readBook } from './facts';
import { explainAnswer, profitsAnswer, replayAnswer, type LivedAsked } from './lived';
import type { Markets } from './markets';
import { scenarioAnswer, type ScenarioAsked } from './scenario';
import { bookWorth, type Worth } from './worth';

/** What is to be worked out of a book; null moments are the latest. */
export type BookTask = { bookId: number; asof: number | null; ghost?: number | null; by?: Worth } & (
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
export async function bookAnswer(database: Database, markets: Markets, task: BookTask): Promise<object | null> {
  const { bookId, asof, ghost = null, by = 'mid' } = task;
  const [stored] = await Promise.all([readBook(database, bookId), markets.look()]);
  if (!stored) return null;
  if (task.kind === 'explain') return explainAnswer(markets, database, stored, task.asked);
  if (task.kind === 'profits') return profitsAnswer(markets, database, stored, task.asked);
  if (task.kind === 'replay') {
    const to = task.asked.to ?? (await markets.latest([], null)) ?? Date.now();
    return replayAnswer(markets, database, stored, { ...task.asked, to });
  }
  const worth = await bookWorth(markets, database, stored, { asof, ghost, by });
  switch (task.kind) {
    case 'worth':
      return worthAnswer(database, stored, worth, task.beta === null ? () => null : await betasTo(database, worth, task.beta));
    case 'positions':
      return positionsAnswer(stored, worth);
    case 'position':
      return positionAnswer(stored, worth, task.id);
    case 'risk':
      return riskAnswer(worth, task.level, task.inSymbol === null ? null : numeraireIn(worth, task.inSymbol));
    case 'scenario': {
      const { beta } = task.asked;
      const betaOf = beta === undefined ? () => 1 : await betasTo(database, worth, beta);
      return scenarioAnswer(markets, worth, task.asked, betaOf);
    }
  }
}
