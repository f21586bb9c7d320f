import {
  BASES,
  MOVE_MEASURES,
  STEP_KINDS,
  STRADDLE_CHOICES,
  type MoveMeasure,
  type StepKind,
  type StraddleChoice,
} from '@umwelt/core';
import { defineParams, flag, numbers, oneOf, someOf } from '$lib/address/params';

/** Panels: left below the price, right below the densities. */
export const LEFT_PANELS = ['expiries', 'record', 'zones', 'strikes', 'events', 'pain'] as const;
export type LeftPanel = (typeof LEFT_PANELS)[number];
export const RIGHT_PANELS = ['contract', 'spread', 'hedge'] as const;
export type RightPanel = (typeof RIGHT_PANELS)[number];

/** Where the levels of the zones come from. */
export const ZONE_PRESETS = ['typed', 'deviation', 'deviations', 'percent5', 'percent10', 'spread'] as const;
export type ZonePreset = (typeof ZONE_PRESETS)[number];

/** Laws that are drawn over each other: the bases, and paths of the past. */
export const LAWS = [...BASES, 'past'] as const;
export type LawName = (typeof LAWS)[number];

export const PRICE_AXES = ['price', 'return'] as const;
export type PriceAxis = (typeof PRICE_AXES)[number];

export interface OddsParams {
  left: LeftPanel;
  right: RightPanel;
  /** Over what past expected moves are followed, and which of the two. */
  stepKind: StepKind;
  moveMeasure: MoveMeasure;
  straddleChoice: StraddleChoice;
  preset: ZonePreset;
  /** Levels of the zones where they are typed or dragged. */
  levels: readonly number[];
  laws: readonly LawName[];
  isUnder: boolean;
  priceAxis: PriceAxis;
  /** Gains and losses of the contract that odds are asked for, per cent of its price. */
  shares: readonly number[];
}

export const PARAMS = defineParams<OddsParams>(
  {
    left: oneOf('left', LEFT_PANELS, 'expiries'),
    right: oneOf('right', RIGHT_PANELS, 'contract'),
    stepKind: oneOf('moves', STEP_KINDS, 'week'),
    moveMeasure: oneOf('by', MOVE_MEASURES, 'straddle'),
    // Addresses that do not say it are of the time when the two strikes around the forward were all there was.
    straddleChoice: { ...oneOf('straddle', STRADDLE_CHOICES, 'bracket'), fresh: 'forward' },
    preset: oneOf('zones', ZONE_PRESETS, 'deviation'),
    levels: numbers('levels', [0, 1e9], 8, []),
    laws: someOf('laws', LAWS, ['curve', 'level', 'realized', 'past']),
    isUnder: flag('law', 'under'),
    priceAxis: oneOf('on', PRICE_AXES, 'price'),
    shares: numbers('shares', [1, 1000], 5, [50, 20, 10]),
  },
  { ofUnderlying: ['levels'] },
);
