import {
  dividendsOf,
  escrowOf,
  exerciseOf,
  forwardOf,
  isOnForward,
  normalCdf,
  normalDensity,
  priceContract,
  MINUTES_PER_YEAR,
  pricingModel,
  underlyingOf,
  type Contract,
  type SideReading,
  type Side,
} from '@umwelt/core';
import { figures } from '$lib/formats';
import { number, signed, type WorkingLine } from './lines';

/** Where an input comes from. */
export type Sources = Partial<Record<'price' | 'strike' | 'time' | 'vol' | 'rate' | 'yield', string>>;

/** A span of time as it is counted: 41 days and 4 hours. */
export function spanWords(years: number): string {
  const minutes = Math.round(years * MINUTES_PER_YEAR);
  const [days, hours, rest] = [Math.floor(minutes / 1440), Math.floor((minutes % 1440) / 60), minutes % 60];
  const parts = [
    days > 0 ? figures.counted(days, 'day') : '',
    hours > 0 ? figures.counted(hours, 'hour') : '',
    rest > 0 || minutes === 0 ? figures.counted(rest, 'minute') : '',
  ].filter((part) => part !== '');
  return parts.length > 1 ? `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}` : (parts[0] ?? '');
}

function timeLines({ years }: Contract, sources: Sources): WorkingLine[] {
  const minutes = Math.round(years * MINUTES_PER_YEAR);
  return [
    {
      words: `time to expiry: ${spanWords(years)}, ACT/365F to the minute${sources.time ? `; ${sources.time}` : ''}`,
      tex: `T = \\frac{${minutes}}{525\\,600} = ${number(years)}`,
    },
  ];
}

function forwardLines(contract: Contract, sources: Sources): WorkingLine[] {
  const { rate, years } = contract;
  const forward = forwardOf(contract);
  if (isOnForward(contract.model))
    return [{ words: `forward; ${sources.price ?? 'as given'}`, tex: `F = ${number(forward)}` }];
  const spot = underlyingOf(contract);
  const escrowed = escrowOf(contract)(0);
  const carryYield = contract.yield ?? 0;
  const lines: WorkingLine[] = [{ words: `spot; ${sources.price ?? 'as given'}`, tex: `S = ${number(spot)}` }];
  if (escrowed > 0) {
    const terms = dividendsOf(contract).map(
      ({ years: at, amount }) => `${number(amount)}\\,e^{-${number(rate, 5)}\\cdot${number(at, 5)}}`,
    );
    lines.push({
      words: 'cash dividends before expiry are escrowed',
      tex: `S^* = S - \\sum_i D_i e^{-r t_i} = ${number(spot)} - (${terms.join(' + ')}) = ${number(spot - escrowed)}`,
    });
  }
  const name = escrowed > 0 ? 'S^*' : 'S';
  lines.push({
    words: `forward by carry: rate ${figures.percent(rate, 4)} (${sources.rate ?? 'as given'}), yield ${figures.percent(carryYield, 4)} (${sources.yield ?? 'as given'})`,
    tex: `F = ${name}\\,e^{(r-q)T} = ${number(spot - escrowed)}\\,e^{(${number(rate, 6)} - ${signed(Number(carryYield.toPrecision(6)))})\\cdot${number(years, 7)}} = ${number(forward)}`,
  });
  return lines;
}

/** Lines that both sides of a European contract follow from, and both prices. */
function europeanLines(contract: Contract, sources: Sources): WorkingLine[] {
  const { strike, years, rate, vol, model } = contract;
  const forward = forwardOf(contract);
  const discount = Math.exp(-rate * years);
  const deviation = vol * Math.sqrt(years);
  const price = (side: Side) => priceContract({ ...contract, side }).price;
  const [call, put] = [price('call'), price('put')];
  const lines: WorkingLine[] = [
    { words: 'discount', tex: `D = e^{-rT} = e^{-${number(rate, 6)}\\cdot${number(years, 7)}} = ${number(discount)}` },
    {
      words: `total deviation; vol ${sources.vol ?? 'as given'}`,
      tex: `s = \\sigma\\sqrt{T} = ${number(vol)}\\cdot\\sqrt{${number(years, 7)}} = ${number(deviation)}`,
    },
  ];
  if (model === 'bachelier') {
    const d = (forward - strike) / deviation;
    lines.push(
      { words: 'distance in deviations', tex: `d = \\frac{F-K}{s} = ${number(d)}` },
      {
        words: 'normal probability and density',
        tex: `N(d) = ${number(normalCdf(d))},\\quad n(d) = ${number(normalDensity(d))}`,
      },
      { words: 'call', tex: `C = D\\,[(F-K)N(d) + s\\,n(d)] = ${number(call)}` },
      { words: 'put', tex: `P = D\\,[(K-F)N(-d) + s\\,n(d)] = ${number(put)}` },
    );
  } else {
    const d1 = Math.log(forward / strike) / deviation + deviation / 2;
    const d2 = d1 - deviation;
    lines.push(
      {
        words: 'distances in deviations',
        tex: `d_1 = \\frac{\\ln(F/K)}{s} + \\frac{s}{2} = \\frac{\\ln(${number(forward, 7)}/${number(strike, 7)})}{${number(deviation, 7)}} + ${number(deviation / 2, 7)} = ${number(d1)}`,
      },
      { words: '', tex: `d_2 = d_1 - s = ${number(d2)}` },
      {
        words: 'normal probabilities: N(d₂) are the odds that the call ends in the money',
        tex: `N(d_1) = ${number(normalCdf(d1))},\\quad N(d_2) = ${number(normalCdf(d2))}`,
      },
      { words: '', tex: `N(-d_1) = ${number(normalCdf(-d1))},\\quad N(-d_2) = ${number(normalCdf(-d2))}` },
      {
        words: 'call',
        tex: `C = D\\,[F N(d_1) - K N(d_2)] = ${number(discount, 7)}\\,[${number(forward * normalCdf(d1))} - ${number(strike * normalCdf(d2))}] = ${number(call)}`,
      },
      {
        words: 'put',
        tex: `P = D\\,[K N(-d_2) - F N(-d_1)] = ${number(discount, 7)}\\,[${number(strike * normalCdf(-d2))} - ${number(forward * normalCdf(-d1))}] = ${number(put)}`,
      },
    );
  }
  lines.push({
    words: 'parity holds',
    tex: `C - P = ${number(call - put)},\\quad D\\,(F-K) = ${number(discount * (forward - strike))}`,
  });
  return lines;
}

/** What early exercise adds to a side. */
function earlyLines(contract: Contract, reading: SideReading): WorkingLine[] {
  const name = contract.side === 'call' ? 'C' : 'P';
  const european = reading.price - reading.earlyPremium;
  const symbol = `${name}_{\\mathrm{am}}`;
  const how =
    pricingModel(contract) === 'american'
      ? `${symbol} = ${name} + \\int_0^T \\left(${contract.side === 'put' ? 'rK e^{-rt}N(-d_2) - qS e^{-qt}N(-d_1)' : 'qS e^{-qt}N(d_1) - rK e^{-rt}N(d_2)'}\\right)dt`
      : `${symbol} = ${name} + \\varepsilon`;
  return [
    {
      words:
        pricingModel(contract) === 'american'
          ? `early exercise of the ${contract.side}: what exercising earns while the price is beyond the boundary`
          : `early exercise of the ${contract.side}, over the European contract in the same tree`,
      tex: `${how} = ${number(european)} + ${number(reading.earlyPremium)} = ${number(reading.price)}`,
    },
  ];
}

/**
 * The derivation of both prices of a contract, line by line.
 *
 * @param readings of the two sides, as the screen shows them
 */
export function workingLines(
  contract: Contract,
  readings: { call: SideReading; put: SideReading },
  sources: Sources,
): WorkingLine[] {
  const isEarly = contract.model === 'american' || contract.model === 'binomial';
  const { exercise: _, steps: __, ...terms } = contract;
  const european: Contract = isEarly ? { ...terms, model: 'black-scholes-merton' } : contract;
  const lines = [
    ...timeLines(contract, sources),
    ...forwardLines(contract, sources),
    ...(contract.vol > 0 && contract.years > 0
      ? europeanLines(european, sources)
      : [
          {
            words: 'no time or no vol: what exercising at the best moment earns',
            tex: `C = ${number(readings.call.price)},\\quad P = ${number(readings.put.price)}`,
          },
        ]),
  ];
  if (isEarly && exerciseOf(contract) === 'american') {
    for (const side of ['call', 'put'] as const) lines.push(...earlyLines({ ...contract, side }, readings[side]));
  }
  return lines;
}
