import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { call } from '$lib/api/call';
import type { Template } from './asked';

type Answer = z.infer<typeof schemas.TemplatesResponse>;

/** A template by its name. */
export interface NamedTemplate {
  name: string;
  asked: Template;
}

export type KeptTemplate = Answer['templates'][number];

const templatesOf = async (answer: Promise<Answer>) => (await answer).templates;

/** Templates that are kept, by name. */
export const loadTemplates = (): Promise<KeptTemplate[]> => templatesOf(call('GET /finder/templates'));

/**
 * Keeps a template.
 *
 * @param version of the one of the same name that it replaces; null for a new one
 * @throws Refusal with the one that there is where that is another
 */
export const keepTemplate = ({ name, asked }: NamedTemplate, version: number | null): Promise<KeptTemplate[]> =>
  templatesOf(call('POST /finder/templates', { body: { name, asked, version } }));

/** Deletes a template. */
export const dropTemplate = (id: number): Promise<KeptTemplate[]> =>
  templatesOf(call('DELETE /finder/templates/{id}', { path: { id } }));

const COMMON = {
  ...({ fee: 0, refused: false, own: 'garch', ownSkew: 'kept', recentred: true } as const),
  ...{ stress: false, undominated: false },
};

/** Templates that come with the application. */
export const SHIPPED_TEMPLATES: readonly NamedTemplate[] = [
  {
    name: 'Sell rich vol, capped',
    asked: {
      ...COMMON,
      kinds: ['vertical-credit', 'broken-wing', 'iron-condor', 'iron-butterfly'],
      days: [20, 65],
      legs: { delta: [0.1, 0.32], wing: [0.2, 1.2] },
      gap: [5, 60],
      fill: { slippage: 0.3 },
      limits: [
        'probabilityOfProfit >= 0.6',
        'returnOnRisk >= 0.15',
        'edges.past.ofRisk >= 0.05',
        'spreadShare <= 0.25',
        'weakest.openInterest >= 25',
      ],
      rank: [
        { measure: 'edges.past.ofRisk', weight: 35 },
        { measure: 'edges.ownVol.ofRisk', weight: 25 },
        { measure: 'returnOnRisk', weight: 15 },
        { measure: 'touch', weight: -15 },
        { measure: 'spreadShare', weight: -10 },
      ],
      top: { each: 2, per: 'underlying' },
    },
  },
  {
    name: 'Buy front vol before an announcement',
    asked: {
      ...COMMON,
      kinds: ['straddle', 'strangle'],
      days: [2, 21],
      legs: { delta: [0.15, 0.85], wing: [0, 6] },
      gap: [5, 60],
      fill: { slippage: 0.5 },
      limits: ['announcements >= 1', 'cost >= 0', 'spreadShare <= 0.2', 'edge.past > -0.1 * capital'],
      rank: [
        { measure: 'edges.past.ofRisk', weight: 40 },
        { measure: 'spreadShare', weight: -30 },
        { measure: 'weakest.volume', weight: 20 },
        { measure: 'greeks.gamma', weight: 10 },
      ],
      top: { each: 2, per: 'underlying' },
    },
  },
  {
    name: 'The lean against the year',
    asked: {
      ...COMMON,
      kinds: ['risk-reversal'],
      days: [20, 65],
      legs: { delta: [0.12, 0.38], wing: [0, 6] },
      gap: [5, 60],
      fill: { slippage: 0.3 },
      // The wing that is dear against its year is sold: puts where the lean is low, calls where it is high.
      limits: [
        '(rank(rr25, 252) < 30% and skew > 0) or (rank(rr25, 252) > 70% and skew < 0)',
        'spreadShare <= 3',
        'weakest.openInterest >= 25',
      ],
      rank: [
        { measure: 'volSpread', weight: 45 },
        { measure: 'edges.past.ofRisk', weight: 25 },
        { measure: 'spread', weight: -15 },
        { measure: 'touch', weight: -15 },
      ],
      top: { each: 2, per: 'underlying' },
    },
  },
  {
    name: 'Calendars where vol is low',
    asked: {
      ...COMMON,
      kinds: ['calendar', 'diagonal'],
      days: [14, 100],
      legs: { delta: [0.25, 0.6], wing: [0.1, 0.8] },
      gap: [20, 60],
      fill: { slippage: 0.3 },
      limits: ['rank(iv30, 252) < 50%', 'slope > 0%', 'spreadShare <= 0.3', 'announcements <= 1'],
      rank: [
        { measure: 'edges.past.ofRisk', weight: 35 },
        { measure: 'probabilityOfProfit', weight: 25 },
        { measure: 'greeks.vega', weight: 15 },
        { measure: 'spreadShare', weight: -25 },
      ],
      top: { each: 2, per: 'underlying' },
    },
  },
  {
    name: 'Pins near open interest',
    asked: {
      ...COMMON,
      kinds: ['butterfly', 'iron-butterfly'],
      days: [2, 16],
      legs: { delta: [0.35, 0.65], wing: [0.4, 1.6] },
      gap: [5, 60],
      fill: { slippage: 0.3 },
      limits: ['weakest.openInterest >= 50', 'rewardToRisk >= 1', 'spreadShare <= 0.4'],
      rank: [
        { measure: 'weakest.openInterest', weight: 40 },
        { measure: 'rewardToRisk', weight: 20 },
        { measure: 'odds.past', weight: 25 },
        { measure: 'spreadShare', weight: -15 },
      ],
      top: { each: 2, per: 'underlying' },
    },
  },
  {
    name: 'Carry with little vega',
    asked: {
      ...COMMON,
      kinds: ['vertical-credit', 'iron-condor', 'ratio'],
      days: [5, 35],
      legs: { delta: [0.08, 0.3], wing: [0.2, 1] },
      gap: [5, 60],
      fill: { slippage: 0.3 },
      limits: ['greeks.theta >= 0', 'probabilityOfProfit >= 0.65', 'spreadShare <= 0.3'],
      rank: [
        { measure: 'thetaPerVega', weight: 40 },
        { measure: 'returnOnRisk', weight: 20 },
        { measure: 'edges.past.ofRisk', weight: 25 },
        { measure: 'touch', weight: -15 },
      ],
      top: { each: 2, per: 'underlying' },
    },
  },
];
