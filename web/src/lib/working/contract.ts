import {
  annualized,
  curveSlope,
  curveVol,
  expiryTerms,
  lognormalUndiscounted,
  MINUTES_PER_YEAR,
  normalCdf,
  normalDensity,
  reasonName,
  touchProbability,
  writtenOn,
  type Basis,
  type ContractView,
  type SideQuotes,
} from '@umwelt/core';
import { higherGreeks, intrinsicOf, underlyingIn } from './cells';
import { CHAIN_COLUMNS } from '$lib/columns';
import { CURVE_WORDS, figures, longMoment, reasonWords, shortExpiry } from '$lib/formats';
import type { CloseUp } from './close-up';
import type { Focus } from '$lib/data/focus';
import type { Valued } from '$lib/data/valued';
import { spanWords } from './european';
import { forwardWords } from './expiry';
import { number, signed, type Work, type WorkingLine } from './lines';

interface Given {
  shown: Valued;
  focus: Focus;
  closeUp: CloseUp;
  zone: string;
}

/** Where the vol of a basis comes from. */
function volWords(basis: Basis, { shown, focus }: Given): string {
  const { terms, snapshot, quotes } = shown;
  const { curve, atmVol } = snapshot.slices[focus.slice]!.fit;
  switch (basis) {
    case 'own':
      return `of the contract’s own ${quotes}`;
    case 'curve':
      return curve ? `of the fitted curve (${CURVE_WORDS[curve.kind]}) at the strike` : 'there is no curve';
    case 'level':
      return 'of the expiry at the forward, one for all strikes';
    case 'index':
      return 'the 30-day variance index of the underlying';
    case 'realized':
      return terms.past ? 'historical; the odds are those of past paths' : 'historical, of the bars that are over';
    case 'manual':
      return terms.manual.kind === 'vol'
        ? 'as typed'
        : `the curve (${figures.vol(curve ? curveVol(curve, Math.log(focus.strike / snapshot.slices[focus.slice]!.fit.forward)) : atmVol)}) shifted by ${figures.volChange(terms.manual.value)} points`;
  }
}

/** What is quoted of a contract beside bid and ask. */
function quotesAt({ bidSize, askSize, last }: SideQuotes, i: number) {
  return { bidSize: bidSize[i]!, askSize: askSize[i]!, last: last[i]! };
}

/** What the quotes say by themselves: their vols, and what of the price is time. */
function quoteLines({ shown, focus, closeUp }: Given): WorkingLine[] {
  const { snapshot, values } = shown;
  const { fit } = snapshot.slices[focus.slice]!;
  const { bid, mid, ask } = values[focus.slice]![focus.side === 'call' ? 'callVols' : 'putVols'];
  const i = focus.index;
  const underlying = underlyingIn(snapshot, fit);
  const intrinsic = intrinsicOf(focus.side, underlying, focus.strike);
  const time = closeUp.mid - intrinsic;
  const minus =
    focus.side === 'call'
      ? `${number(underlying)} - ${number(focus.strike)}`
      : `${number(focus.strike)} - ${number(underlying)}`;
  return [
    {
      key: 'own',
      words: 'implied vols: those at which the model gives bid, mid and ask',
      tex: `V(\\sigma) = \\text{quote}:\\quad ${number(bid[i]!)},\\; ${number(mid[i]!)},\\; ${number(ask[i]!)}`,
    },
    {
      key: 'time',
      words: `intrinsic value, time value, and what that is of the underlying as a year of simple interest`,
      tex: `\\max(0, ${minus}) = ${number(intrinsic)},\\quad ${number(closeUp.mid)} - ${number(intrinsic)} = ${number(time)},\\quad \\frac{${number(time)}}{${number(underlying)}}\\cdot\\frac{365}{${number(fit.days, 6)}} = ${number(annualized(time / underlying, fit.days), 5)}`,
    },
  ];
}

function inputLines(given: Given, view: ContractView): WorkingLine[] {
  const { shown, focus, closeUp, zone } = given;
  const { snapshot, basis } = shown;
  const { fit } = snapshot.slices[focus.slice]!;
  const at = longMoment(snapshot.instant, zone);
  const quoted = quotesAt(snapshot.slices[focus.slice]![focus.side], focus.index);
  const spot = snapshot.price;
  const carried = spot / fit.discount;
  const sizes = (size: number) => figures.count(size);
  return [
    {
      key: 'quote',
      words: `quotes held of ${at}: ${sizes(quoted.bidSize)} bid for and ${sizes(quoted.askSize)} offered, the last trade at ${figures.fixed(quoted.last, 2)}; ${sizes(closeUp.volume)} traded in the session, ${sizes(closeUp.openInterest)} open${closeUp.reason === 0 ? '' : `; not used: ${reasonWords(reasonName(closeUp.reason))}`}`,
      tex: `\\text{bid} = ${number(closeUp.bid)},\\quad \\text{ask} = ${number(closeUp.ask)}`,
    },
    {
      key: 'mid',
      words: 'the middle of them',
      tex: `\\text{mid} = \\tfrac12(\\text{bid} + \\text{ask}) = \\tfrac12(${number(closeUp.bid)} + ${number(closeUp.ask)}) = ${number(closeUp.mid)}`,
    },
    {
      key: 'years',
      words: `time to expiry: ${spanWords(fit.years)}, ACT/365F to the minute; ${figures.counted(fit.sessions, 'session')}`,
      tex: `T = \\frac{${Math.round(fit.years * MINUTES_PER_YEAR)}}{525\\,600} = ${number(fit.years)}`,
    },
    {
      key: 'forward',
      words: `${forwardWords(fit)}; the price ${Number.isFinite(spot) ? `is ${figures.fixed(spot, 2)}, at the rate alone it would lead to ${figures.fixed(carried, 2)}` : 'is not known'}`,
      tex: `F = ${number(fit.forward)},\\quad \\ln(F/S) = ${number(Math.log(fit.forward / spot), 6)}`,
    },
    {
      words: `discount: rate ${figures.percent(fit.rate, 4)} of the curve of the day`,
      tex: `D = e^{-rT} = e^{-${number(fit.rate, 6)}\\cdot${number(fit.years, 7)}} = ${number(fit.discount)}`,
    },
    { key: 'vol', words: `vol ${volWords(basis, given)}`, tex: `\\sigma = ${number(view.vol)}` },
  ];
}

function priceLines({ shown, focus, closeUp }: Given, view: ContractView): WorkingLine[] {
  const { fit } = shown.snapshot.slices[focus.slice]!;
  const { forward, years, discount } = fit;
  const isCall = focus.side === 'call';
  const sign = isCall ? 1 : -1;
  const { strike } = focus;
  const s = view.vol * Math.sqrt(years);
  const d1 = Math.log(forward / strike) / s + s / 2;
  const d2 = d1 - s;
  const european = discount * lognormalUndiscounted(sign, forward, strike, s);
  const early = view.theory - european;
  const isEarly = Math.abs(early) > 1e-7 * forward;
  const [n1, n2] = [normalCdf(sign * d1), normalCdf(sign * d2)];
  const minus = isCall ? '' : '-';
  const formula = isCall ? 'D\\,[F N(d_1) - K N(d_2)]' : 'D\\,[K N(-d_2) - F N(-d_1)]';
  const numbers = isCall
    ? `${number(forward * n1)} - ${number(strike * n2)}`
    : `${number(strike * n2)} - ${number(forward * n1)}`;
  return [
    {
      words: 'distances in deviations',
      tex: `s = \\sigma\\sqrt T = ${number(s)},\\quad d_1 = \\frac{\\ln(F/K)}{s} + \\frac s2 = ${number(d1)},\\quad d_2 = d_1 - s = ${number(d2)}`,
    },
    {
      words: '',
      tex: `N(${minus}d_1) = ${number(n1)},\\quad N(${minus}d_2) = ${number(n2)},\\quad n(d_1) = ${number(normalDensity(d1))}`,
    },
    {
      key: 'theory',
      words: isEarly ? 'European value' : 'theoretical value',
      tex: `V = ${formula} = ${number(discount, 7)}\\,[${numbers}] = ${number(european)}`,
    },
    ...(isEarly
      ? [
          {
            words: 'early exercise, by its boundary, adds to it',
            tex: `V_{\\mathrm{am}} = V + ${number(early, 6)} = ${number(view.theory)}`,
          },
        ]
      : []),
    {
      key: 'edge',
      words: 'what the quote is rich by',
      tex: `\\text{mid} - V = ${number(closeUp.mid)} - ${number(view.theory)} = ${number(closeUp.mid - view.theory, 6)}`,
    },
  ];
}

/** Greeks of the second order and third, as what they are the change of. */
const HIGHER = [
  {
    key: 'vanna',
    tex: '\\tfrac{1}{100}\\,\\partial\\Delta/\\partial\\sigma',
  },
  {
    key: 'volga',
    tex: '\\tfrac{1}{100}\\,\\partial\\mathcal V/\\partial\\sigma',
  },
  { key: 'charm', tex: '\\tfrac{1}{365}\\,\\partial\\Delta/\\partial t' },
  { key: 'speed', tex: '\\partial\\Gamma/\\partial S' },
  { key: 'color', tex: '\\tfrac{1}{365}\\,\\partial\\Gamma/\\partial t' },
  { key: 'veta', tex: '\\tfrac{1}{365}\\,\\partial\\mathcal V/\\partial t' },
  {
    key: 'zomma',
    tex: '\\tfrac{1}{100}\\,\\partial\\Gamma/\\partial\\sigma',
  },
] as const;

function greekLines({ shown, focus }: Given, view: ContractView): WorkingLine[] {
  const { snapshot } = shown;
  const { fit } = snapshot.slices[focus.slice]!;
  const { spot, yield: carryYield } = expiryTerms(writtenOn(snapshot, snapshot), fit);
  const s = view.vol * Math.sqrt(fit.years);
  const d1 = Math.log(fit.forward / focus.strike) / s + s / 2;
  const minus = focus.side === 'call' ? '' : '-';
  const higher = higherGreeks({ snapshot, slice: snapshot.slices[focus.slice]! }, focus.side, focus.index, view.vol);
  const early = snapshot.exercise === 'american' ? '; with early exercise where that pays' : '';
  return [
    {
      key: 'delta',
      words: `delta: for a unit of price${early}`,
      tex: `\\Delta = ${minus}e^{-qT}N(${minus}d_1) = ${minus}e^{-${signed(Number(carryYield.toPrecision(6)))}\\cdot${number(fit.years, 7)}}\\,${number(normalCdf(focus.side === 'call' ? d1 : -d1))} \\;\\to\\; ${number(view.delta)}`,
    },
    {
      key: 'gamma',
      words: 'gamma: change of delta for a unit of price',
      tex: `\\Gamma = \\frac{e^{-qT}n(d_1)}{S\\,s} = \\frac{e^{-qT}\\cdot${number(normalDensity(d1))}}{${number(spot, 7)}\\cdot${number(s, 7)}} \\;\\to\\; ${number(view.gamma)}`,
    },
    {
      key: 'theta',
      words: 'theta: what a calendar day takes, with all else held',
      tex: `\\Theta = \\frac{1}{365}\\,\\frac{\\partial V}{\\partial t} = ${number(view.theta)}`,
    },
    {
      key: 'vega',
      words: 'vega: for a point of vol',
      tex: `\\mathcal V = \\frac{1}{100}\\,\\frac{\\partial V}{\\partial\\sigma} = \\tfrac{1}{100}\\,S e^{-qT} n(d_1)\\sqrt T \\;\\to\\; ${number(view.vega)}`,
    },
    {
      key: 'rho',
      words: 'rho: for a percentage point of the rate',
      tex: `\\rho = \\frac{1}{100}\\,\\frac{\\partial V}{\\partial r} = ${number(view.rho)}`,
    },
    ...HIGHER.map(({ key, tex }) => ({
      key,
      words: `${key}: ${CHAIN_COLUMNS[key].title}`,
      tex: `${tex} = ${number(higher[key])}`,
    })),
  ];
}

function oddsLines(given: Given, view: ContractView): WorkingLine[] {
  const { shown, focus, closeUp } = given;
  const { snapshot, basis, terms } = shown;
  const { fit } = snapshot.slices[focus.slice]!;
  const { forward, years, curve } = fit;
  const isCall = focus.side === 'call';
  const sign = isCall ? 1 : -1;
  const minus = isCall ? '' : '-';
  const k = Math.log(focus.strike / forward);
  const s = view.vol * Math.sqrt(years);
  const d2 = -k / s - s / 2;
  const isSloped = curve !== null && (basis === 'curve' || (basis === 'manual' && terms.manual.kind === 'shift'));
  const isPast = basis === 'realized' && terms.past !== null;
  const lines: WorkingLine[] = [];
  if (isPast) {
    lines.push({
      key: 'itm',
      words: `odds to end in the money: the share of past ${terms.past!.sampling === 'stretches' ? `moves of ${figures.counted(fit.sessions, 'session')}` : 'paths of blocks of five sessions'} that end there`,
      tex: `P(S_T ${isCall ? '>' : '<'} K) = ${number(view.itm)}`,
    });
  } else if (isSloped) {
    const slope = curveSlope(curve, k);
    lines.push({
      key: 'itm',
      words: `odds to end in the money: the slope of the curve, ∂σ/∂k = ${number(slope, 5)} at k = ln(K/F) = ${number(k, 5)}, counts (Breeden and Litzenberger 1978)`,
      tex: `P = N(${minus}d_2) ${isCall ? '-' : '+'} \\sqrt T\\,n(d_2)\\,\\frac{\\partial\\sigma}{\\partial k} = ${number(normalCdf(sign * d2))} ${isCall ? '-' : '+'} ${number(Math.sqrt(years), 6)}\\cdot${number(normalDensity(d2), 6)}\\cdot${signed(Number(slope.toPrecision(6)))} = ${number(view.itm)}`,
    });
  } else {
    lines.push({
      key: 'itm',
      words: 'odds to end in the money',
      tex: `P = N(${minus}d_2) = ${number(view.itm)}`,
    });
  }
  const { spot } = expiryTerms(writtenOn(snapshot, snapshot), fit);
  const drift = Math.log(forward / spot) / years;
  const flatTouch = touchProbability(spot, focus.strike, years, drift, view.vol);
  lines.push(
    {
      key: 'breakEven',
      words: 'the same at the break-even',
      tex: `B = K ${isCall ? '+' : '-'} \\text{mid} = ${number(closeUp.breakEven)},\\quad P(S_T ${isCall ? '>' : '<'} B) = ${number(view.breakEven)}`,
    },
    {
      key: 'touch',
      words: isPast
        ? 'odds to touch the strike: the share of the paths whose highs or lows reach it'
        : `odds to touch the strike, watched continuously, with the drift μ = ln(F/S)/T − σ²/2 (reflection principle); twice the odds above would be ${figures.percent(2 * view.itm)}`,
      tex: isPast
        ? `P = ${number(view.touch)}`
        : `P = N\\!\\left(\\frac{\\pm\\mu T - |h|}{s}\\right) + e^{2\\mu h/\\sigma^2} N\\!\\left(\\frac{\\mp\\mu T - |h|}{s}\\right),\\quad h = \\ln\\frac KS = ${number(Math.log(focus.strike / spot), 6)},\\quad P = ${number(flatTouch)}`,
    },
    {
      key: 'move',
      words: `expected move: one deviation on this vol; the straddle at the money says ${figures.plusMinus(fit.straddleMove, 2)}`,
      tex: `F\\,\\sigma\\sqrt T = ${number(forward, 8)}\\cdot${number(s, 7)} = ${number(forward * s)}`,
    },
  );
  return lines;
}

/**
 * How the numbers of a contract come about on a basis, and what they are on the others.
 *
 * @param at the number that was asked for: a key of a view
 * @param basis the one in use unless given
 */
export function contractWork(asked: Given, at?: string, basis = asked.shown.basis): Work {
  const { focus, closeUp } = asked;
  const { view } = closeUp.views.find((one) => one.basis === basis)!;
  const shown = { ...asked.shown, basis };
  const given = { ...asked, shown };
  const isKnown = view.vol > 0 && shown.snapshot.slices[focus.slice]!.fit.years > 0;
  const fixed = (value: number, decimals: number) => figures.fixed(value, decimals);
  return {
    title: `${shortExpiry(focus)} ${figures.strike(focus.strike)} ${focus.side}, on the ${shown.basis} basis`,
    lines: [
      ...inputLines(given, view),
      ...quoteLines(given),
      ...(isKnown ? [...priceLines(given, view), ...greekLines(given, view), ...oddsLines(given, view)] : []),
    ],
    others: {
      heads: ['basis', 'vol', 'theory', 'edge', 'delta', 'itm %', 'touch %', 'even %'],
      rows: closeUp.views.map(({ basis, view: one }) => [
        basis,
        figures.vol(one.vol, 2),
        fixed(one.theory, 3),
        figures.signed(closeUp.mid - one.theory, 3),
        fixed(one.delta, 4),
        fixed(100 * one.itm, 2),
        fixed(100 * one.touch, 2),
        fixed(100 * one.breakEven, 2),
      ]),
    },
    at,
  };
}
