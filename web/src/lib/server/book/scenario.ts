import { scenarioGrid, worstOf, yearsBetween, type Cells, type GridAxes, type GridLeg } from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '../../api';
import type { Markets } from '../market/known-markets';
import type { BookWorth } from './worth';

export type ScenarioAsked = z.infer<typeof schemas.BookScenarioRequest>;
type Answer = z.input<typeof schemas.BookScenarioResponse>;

const written = (cells: Cells): number[][] => cells.map((row) => Array.from(row));

/**
 * What scenarios would bring to a book: all prices moved alike, or by their betas.
 *
 * @param betaOf of an underlying's price to that of another one
 */
export async function scenarioAnswer(
  markets: Markets,
  worth: BookWorth,
  asked: ScenarioAsked,
  betaOf: (symbol: string) => number,
): Promise<Answer> {
  const { moves, volShifts, volScale } = asked;
  const at = Math.max(worth.asof, asked.at === undefined ? worth.asof : Date.parse(asked.at));
  const axes: GridAxes = { moves, volShifts, volScale };
  const held = worth.positions.flatMap(({ legs }) => legs.filter(({ quantity }) => quantity !== 0));
  const slopes = new Map<string, number>();
  if (volScale === 'along')
    for (const symbol of new Set(held.map(({ contract }) => contract.symbol)))
      slopes.set(symbol, await markets.volPerMove(symbol));
  const legs = held.flatMap(({ position, family, contract, quantity, money, market, missing }): GridLeg[] =>
    market && missing === null && Number.isFinite(money)
      ? [
          {
            ...{ position, family, contract, quantity, money },
            market: market.at,
            elapsed: yearsBetween(market.asof, at),
            beta: asked.beta === undefined ? 1 : betaOf(contract.symbol),
            volPerMove: slopes.get(contract.symbol) ?? 0,
          },
        ]
      : [],
  );
  const grid = scenarioGrid(legs, axes);
  const families = Array.from(grid.families, ([family, cells]) => ({ family, cells, worst: worstOf(cells, axes) }));
  const iso = (instant: number) => new Date(instant).toISOString();
  return {
    asof: iso(worth.asof),
    at: iso(at),
    moves: [...moves],
    volShifts: [...volShifts],
    pnl: written(grid.total),
    worst: worstOf(grid.total, axes),
    families: families.map(({ family, cells, worst }) => ({ family, pnl: written(cells), worst })),
    apart: families.reduce((sum, { worst }) => sum + Math.min(0, worst.pnl), 0),
    positions: Array.from(grid.positions, ([id, cells]) => ({ id, pnl: written(cells) })),
    missing: grid.missing + (held.length - legs.length),
  };
}
