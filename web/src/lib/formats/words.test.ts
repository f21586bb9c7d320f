import { REASONS } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import type { ExpiryFit } from '@umwelt/core';
import {
  asideSentence,
  chainSentence,
  expiriesSentence,
  expiryAsideWords,
  feedWords,
  inWords,
  isSetAside,
  lackSentence,
  oddsSentence,
  rankWords,
  reasonWords,
  skewSentence,
  standingSentence,
  termSentence,
  universeSentence,
} from './words';

const fit = (expiry: string, riskReversal25: number) => ({ expiry, riskReversal25 }) as ExpiryFit;
const whole = ({ lead, rest }: { lead: string; rest: string }) => `${lead} ${rest}`;

describe('sentences', () => {
  it('of the skew', () => {
    const fits = [fit('2031-03-20', -0.09), fit('2031-04-17', -0.079)];
    expect(whole(skewSentence(fits, fits[1]!, { day: '13 Feb', riskReversal25: -0.052 }))).toBe(
      'Put-rich in both expiries. 17 Apr: the 25-delta put trades 7.9 points over the call; on 13 Feb it was 5.2.',
    );
    expect(
      whole(
        skewSentence([...fits, fit('2031-06-19', 0.02)], fit('2031-06-19', 0.02), {
          day: '13 Feb',
          riskReversal25: -0.01,
        }),
      ),
    ).toBe(
      'Put-rich in two of three expiries. 19 Jun: the 25-delta call trades 2.0 points over the put; on 13 Feb it lay 1.0 under it.',
    );
    const month = { day: '13 Feb', then: -0.052, now: -0.079 };
    expect(skewSentence(fits, fits[1]!, null, month).rest).toContain('At 30 days RR is −7.9, on 13 Feb it was −5.2.');
    expect(skewSentence([fit('2031-03-20', NaN), fits[1]!], fit('2031-03-20', NaN), null).rest).toContain(
      'too few strikes',
    );
  });
  it('of what is missing, or cannot be true', () => {
    const refused = REASONS.map(() => 0);
    refused[REASONS.indexOf('zero-bid')] = 18;
    const none = {
      expiry: '2031-04-17',
      settlement: 'pm' as const,
      forward: 100,
      curve: null,
      contracts: 18,
      usable: 0,
      refused,
    };
    expect(whole(lackSentence(none, 100)!)).toBe('17 Apr has no curve. All its 18 contracts: no vol: nobody bids.');
    expect(whole(lackSentence({ ...none, contracts: 20 }, 100)!)).toContain('18 of its 20 contracts: no vol');
    expect(lackSentence({ ...none, refused: [], contracts: 0 }, 100)!.rest).toBe('Nothing is quoted.');
    const curve = { kind: 'flat', years: 0.1, forward: 100, parameters: [0.04] } as const;
    const flat = { ...none, curve, usable: 6, refused: [] };
    expect(whole(lackSentence(flat, 100)!)).toBe(
      '17 Apr has one vol for all strikes: 6 contracts with a vol are too few for a curve.',
    );
    const svi = { ...flat, curve: { ...curve, kind: 'svi' as const } };
    expect(lackSentence(svi, 100)).toBeNull();
    expect(lackSentence(svi, NaN)).toBeNull();
    expect(lackSentence(svi, 124)).toBeNull();
    expect(whole(lackSentence(svi, 160)!)).toBe(
      'The forward of 17 Apr does not fit the price: by its quotes it is 100.00, while the underlying stands at 160.00. One of them is wrong.',
    );
    expect(lackSentence(svi, 79)!.lead).toContain('does not fit');
  });
  it('of nothing to lean', () => {
    expect(skewSentence([fit('2031-03-20', NaN)], fit('2031-03-20', NaN), null).lead).toBe('No skew.');
  });
  it('of the expiries', () => {
    const one = (expiry: string, errorInHalfSpreads: number) =>
      ({ expiry, settlement: 'pm', contracts: 10, usable: 8, expiryAside: null, errorInHalfSpreads }) as const;
    expect(expiriesSentence([one('2031-03-20', 0.4), one('2031-04-17', 1.26)])).toEqual({
      lead: '16 of 20 used.',
      rest: '17 Apr fits worst, ±1.3 half spreads.',
    });
    expect(expiriesSentence([{ ...one('2031-03-20', NaN), expiryAside: 'by-hand' }]).lead).toBe('0 of 10 used.');
  });
  it('of what is set aside', () => {
    const one = (aside: string[], expiryAside: 'by-hand' | null = null) => ({
      aside: aside.map((reason, i) => ({
        strike: i,
        side: 'put' as const,
        reason: REASONS.indexOf(reason as 'stale'),
      })),
      expiryAside,
      contracts: 10,
    });
    expect(asideSentence([one([])])).toEqual({ lead: 'Every quote with a vol is in use.', rest: '' });
    expect(asideSentence([one(['stale', 'by-hand']), one([], 'by-hand')])).toEqual({
      lead: '2 quotes of 20 set aside,',
      rest: '1 by hand. 1 whole expiry beside.',
    });
    expect(asideSentence([one([], 'by-hand'), one([], 'by-hand')]).rest).toBe('2 whole expiries beside.');
  });
  it('of the term structure', () => {
    expect(whole(termSentence(-0.06, 0.54, 0.48, { title: 'Results', days: 7.6 }))).toBe(
      'Backwardation. 90-day vol 48.0 stands 6.0 points under the 30-day 54.0. Results in 8 days.',
    );
    expect(termSentence(NaN, NaN, NaN, null).lead).toBe('No term structure.');
  });
  it('of the chain', () => {
    expect(
      whole(
        chainSentence(
          { expiry: '2031-04-17', settlement: 'pm' },
          [0.1, -0.3, 0.01, NaN],
          [0.05, 0.1, 0.1, 0.1],
          'curve',
        ),
      ),
    ).toBe(
      '17 Apr: one rich and one cheap of 3 quotes. Theory on the curve basis lies outside their spread; inside it for the other 1.',
    );
    expect(chainSentence({ expiry: '2031-04-17', settlement: 'pm' }, [0], [0.1], 'own').rest).toContain(
      'inside the spread of the one quote',
    );
    expect(chainSentence({ expiry: '2031-04-17', settlement: 'pm' }, [NaN], [0.1], 'realized').rest).toContain(
      'no quote can be compared',
    );
  });
  it('of history', () => {
    const standing = {
      now: 0.24,
      percentile: 0.065,
      low: 0.2,
      lowDate: '2031-01-08',
      high: 0.51,
      highDate: '2030-09-09',
      sessions: 252,
    };
    expect(whole(standingSentence(standing, '30-day vol', null))).toBe(
      '30-day vol is 24.0 %, in the lowest 7 % of 252 sessions; its high was 51.0 % on 9 Sep 2030.',
    );
    const against = { vol: 0.22, name: 'hv20.yz', gaps: [0.01, -0.01, 0.02, NaN] };
    expect(whole(standingSentence({ ...standing, percentile: 0.995 }, '30-day vol', against))).toBe(
      '30-day vol is 24.0 %, in the highest 1 % of 252 sessions; its low was 20.0 % on 8 Jan 2031. It stands 2.0 points over hv20.yz (22.0) and was over it on 2 of 3 sessions.',
    );
    expect(standingSentence({ ...standing, percentile: NaN, sessions: 1 }, 'x', null).lead).toContain(
      'nothing to rank',
    );
    expect(standingSentence(null, '30-day vol', against).lead).toBe('Nothing to compare.');
  });
  it('of the universe', () => {
    const row = (symbol: string, iv30: number, hv20: number, termState: string) => ({
      symbol,
      iv30,
      hv20,
      ivToHv: iv30 / hv20,
      termState,
    });
    expect(whole(universeSentence([row('A', 0.3, 0.2, 'contango'), row('B', 0.2, 0.2, 'backwardation')]))).toBe(
      'One of two trades more than 15 % over what it has done in the last 20 sessions; A the most (30.0 against 20.0). Front-month vol is bid in B.',
    );
    expect(universeSentence([]).lead).toBe('Nothing to compare yet.');
  });
  it('of the odds', () => {
    const odds = (basis: string, itm: number) => ({ basis, view: { itm } });
    const views = [odds('curve', 0.249), odds('own', 0.234), odds('realized', 0.142)];
    const differences = [
      { cause: 'realized', without: 0.222, with: 0.142, by: -0.08 },
      { cause: 'slope', without: 0.222, with: 0.249, by: 0.027 },
      { cause: 'drift', without: 0.2215, with: 0.222, by: 0.0005 },
    ] as const;
    expect(whole(oddsSentence(views, differences))).toBe(
      'From 14.2 % (realized) to 24.9 % (curve): realized instead of implied makes the largest difference, −8.0 points (14.2 %, where by the level of the expiry it would be 22.2 %); beside that the slope of the skew +2.7 points.',
    );
    expect(oddsSentence([odds('own', NaN)], []).lead).toBe('One basis only.');
    expect(oddsSentence([odds('own', 0.5), odds('level', 0.5)], differences).lead).toBe('The bases agree:');
    expect(oddsSentence([odds('manual', 0.1), odds('level', 0.5)], []).rest).toBe(
      'what is typed makes the difference.',
    );
  });
  it('of numbers and ranks', () => {
    expect([0, 7, 40].map(inWords)).toEqual(['no', 'seven', '40']);
    expect(rankWords({ rank: 0.41, percentile: 0.63, low: 0, high: 1, lowIndex: 0, highIndex: 0, sessions: 60 })).toBe(
      'rank 41 · pct 63',
    );
    expect(rankWords(null)).toBe('no rank yet');
  });
});

describe('the feed', () => {
  const feed = {
    status: 'running' as const,
    speed: 10,
    moment: '2031-03-13T16:50:07.000Z',
    isBegun: true,
    isKept: true,
  };
  const words = (change: Partial<Parameters<typeof feedWords>[0]>, moment?: string) =>
    feedWords({ ...feed, ...change }, moment, 'Etc/GMT+1');
  it('says where it is, by the clock of the exchange', () => {
    expect(words({})).toBe('feed at 10× · Thu 13 Mar 15:50:07');
    expect(words({}, '2031-03-13T16:50:17.000Z')).toBe('feed at 10× · Thu 13 Mar 15:50:17');
    expect(words({ status: 'stopped' })).toBe('feed stands at Thu 13 Mar 15:50:07');
    expect(words({ isKept: false })).toContain('no worker looks after it');
    expect(words({ isBegun: false })).toContain('goes on from the last moment of the demo');
  });
});

describe('reasons', () => {
  it('every code has words, and those that can be put back say that they are set aside', () => {
    for (const reason of REASONS) expect(reasonWords(reason).length).toBeGreaterThan(3);
    expect(REASONS.filter(isSetAside)).toEqual(['stale', 'off-curve', 'off-parity', 'by-hand']);
    expect(expiryAsideWords('broken-forward')).toContain('forward');
    expect(expiryAsideWords('by-hand')).toContain('by hand');
  });
});
