import {
  DAYS_PER_YEAR,
  inputOf,
  withInput,
  type Contract,
  type Input,
  type Output,
  type SweepRequest,
} from '@umwelt/core';
import type { Data, Layout } from 'plotly.js';
import { baseAxis, baseLayout, MONO, type Figure } from '$lib/charts/figure';
import { depthColor } from '$lib/charts/depth';
import { figures, shortDay } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';
import { readNumber } from './terms';
import { inputName, inputText, OUTPUT_NAMES, outputScale } from './words';

/** An expiry whose life can be laid over that of the contract. */
export interface OtherExpiry {
  expiry: string;
  years: number;
  forward: number;
  yield: number;
}

export interface SweepPlan {
  along: Input;
  output: Output;
  /** Curves by another input, by the expiries of the chain, of both sides, or just the one. */
  by: Input | 'expiry' | 'side' | 'none';
  /** Values of that input, decimals. */
  values: readonly number[];
  expiries: readonly OtherExpiry[];
}

/** A curve to be drawn: where it lies, and what the worker is to follow. */
export interface SweepLine {
  label: string;
  /** By the days of an expiry; NaN for curves by other inputs. */
  days: number;
  x: Float64Array;
  contract: Contract;
  request: SweepRequest;
}

const POINTS = 61;

const spread = (low: number, high: number) =>
  Float64Array.from({ length: POINTS }, (_, i) => low + ((high - low) * i) / (POINTS - 1));

/** From where to where an input is followed. */
export function rangeOf(contract: Contract, input: Input): [number, number] {
  const now = inputOf(contract, input);
  const reach = Math.max(0.05, 3 * contract.vol * Math.sqrt(contract.years));
  if (input === 'vol') return [0.2 * now, 2 * now];
  if (input === 'rate' || input === 'yield') return [now - 0.05, now + 0.05];
  if (contract.model === 'bachelier') {
    const width = 3 * contract.vol * Math.sqrt(contract.years);
    return [now - width, now + width];
  }
  return [now * Math.exp(-Math.min(reach, 1.5)), now * Math.exp(Math.min(reach, 1.2))];
}

/** Values of a second input that differ enough to be told apart. */
export function usualValues(contract: Contract, input: Input): number[] {
  const now = inputOf(contract, input);
  if (input === 'years') return [now, now / 2, now / 4];
  if (input === 'rate' || input === 'yield') return [now - 0.02, now, now + 0.02];
  if (input === 'vol') return [now * 0.75, now, now * 1.25];
  const step = contract.model === 'bachelier' ? contract.vol * Math.sqrt(contract.years) : 0.05 * now;
  return [now - step, now, now + step];
}

interface Variant {
  label: string;
  days: number;
  contract: Contract;
}

/** The contracts whose curves a plan lays over each other. */
function variantsOf(contract: Contract, { by, values, expiries }: SweepPlan): Variant[] {
  if (by === 'none') return [{ label: '', days: NaN, contract }];
  if (by === 'side')
    return (['call', 'put'] as const).map((side) => ({ label: side, days: NaN, contract: { ...contract, side } }));
  if (by === 'expiry') {
    return expiries.map(({ expiry, years, forward, yield: carryYield }) => {
      const held = contract.forward === undefined ? { yield: carryYield } : { forward };
      return { label: shortDay(expiry), days: years * DAYS_PER_YEAR, contract: { ...contract, years, ...held } };
    });
  }
  const name = inputName(by, contract.model);
  return values.map((value) => {
    const label =
      by === 'years' ? `${figures.fixed(DAYS_PER_YEAR * value, 1)} days` : `${name} ${inputText(by, value, 2)}`;
    return { label, days: NaN, contract: withInput(contract, by, value) };
  });
}

/** The curves of a plan. Along the life of a contract x is the days from now, so that lives of different length lie over each other. */
export function sweepLines(contract: Contract, plan: SweepPlan): SweepLine[] {
  const { along, output } = plan;
  return variantsOf(contract, plan).map(({ label, days, contract: variant }) => {
    if (along === 'years') {
      const whole = variant.years * DAYS_PER_YEAR;
      const x = spread(0, whole);
      // The life ends a minute early: at expiry itself the Greeks are a step.
      const values = x.map((passed) => Math.max(whole - passed, 1 / 1440) / DAYS_PER_YEAR);
      return { label, days, x, contract: variant, request: { input: along, values, output } };
    }
    const values = spread(...rangeOf(contract, along));
    return {
      label,
      days,
      x: values.map((value) => axisValue(along, value)),
      contract: variant,
      request: { input: along, values, output },
    };
  });
}

/** Vols and rates in percent. */
function axisValue(input: Input, value: number): number {
  return input === 'vol' || input === 'rate' || input === 'yield' ? 100 * value : value;
}

const AXIS_UNITS: Partial<Record<Input, string>> = { vol: ', %', rate: ', %', yield: ', %' };

export interface SweepDrawing {
  lines: readonly SweepLine[];
  curves: readonly Float64Array[];
  /** By what money is multiplied. */
  factor: number;
}

/** The curves as a chart. */
export function sweepFigure(contract: Contract, plan: SweepPlan, drawing: SweepDrawing, tokens: Tokens): Figure {
  const { along, output } = plan;
  const scale = outputScale(output, drawing.factor);
  const y = drawing.curves.map((curve) => Array.from(curve, (value) => value * scale));
  const name = along === 'years' ? 'days from now' : inputName(along, contract.model);
  const colors = drawing.lines.map(({ days }, i) =>
    Number.isFinite(days) ? depthColor(days, tokens) : tokens.depths[(2 * i) % tokens.depths.length]!,
  );
  const data: Data[] = drawing.lines.map(({ x, label }, i) => ({
    type: 'scatter',
    mode: 'lines',
    x: Array.from(x),
    y: y[i]!,
    name: label,
    text: y[i]!.map((value) => figures.significant(value, 5)),
    hovertemplate: `${label ? `${label}<br>` : ''}${name} %{x:.5~g}<br>${OUTPUT_NAMES[output]} %{text}<extra></extra>`,
    line: {
      color: drawing.lines.length === 1 ? tokens.implied : colors[i]!,
      width: 1.8,
      dash: i === 0 || Number.isFinite(drawing.lines[0]!.days) ? 'solid' : i === 1 ? 'dash' : 'dot',
    },
  }));
  const now = along === 'years' ? 0 : axisValue(along, inputOf(contract, along));
  const labels: Layout['annotations'] = drawing.lines.flatMap(({ x, label }, i) => {
    if (!label) return [];
    // Each label sits at a different part of its curve, so that labels of curves that meet do not overlap.
    const share = along === 'years' ? 0.75 : 0.3 + (0.5 * i) / Math.max(1, drawing.lines.length - 1);
    const at = Math.round(share * (POINTS - 1));
    const value = y[i]![at]!;
    if (!Number.isFinite(value)) return [];
    return [
      {
        x: x[at]!,
        y: value,
        text: label,
        showarrow: false,
        yanchor: 'bottom',
        bgcolor: tokens.panel,
        font: { family: MONO, size: 11, color: colors[i]! },
      } as Layout['annotations'][number],
    ];
  });
  return {
    data,
    layout: {
      ...baseLayout(tokens),
      margin: { l: 58, r: 12, t: 12, b: 38 },
      xaxis: {
        ...baseAxis(tokens),
        title: { text: `${name}${AXIS_UNITS[along] ?? ''}`, standoff: 6, font: { family: MONO, size: 11 } },
        tickformat: '~g',
      },
      yaxis: { ...baseAxis(tokens), tickformat: '~g', zeroline: true, zerolinecolor: tokens.soft, rangemode: 'normal' },
      shapes: [
        {
          type: 'line',
          x0: now,
          x1: now,
          yref: 'paper',
          y0: 0,
          y1: 1,
          line: { color: tokens.focus, width: 1, dash: 'dot' },
        },
      ],
      annotations: labels,
    },
    table: () => ({
      columns: [
        {
          name: along === 'years' ? 'days_from_now' : name.replace(' ', '_'),
          type: 'number',
          write: (value) => figures.significant(value, 6),
        },
        { name: 'curve', type: 'text' },
        { name: output.toLowerCase(), type: 'number', write: (value) => figures.significant(value, 6) },
      ],
      rows: drawing.lines.flatMap(({ x, label }, i) => Array.from(x, (value, j) => [value, label, y[i]![j]!])),
    }),
  };
}

/** A typed list of values of an input, in the units of the fields; null where one is no number. */
export function readValues(text: string, input: Input): number[] | null {
  const scale = input === 'years' ? 1 / DAYS_PER_YEAR : axisValue(input, 1) === 100 ? 0.01 : 1;
  const parts = text.split(/[;,]/).filter((part) => part.trim() !== '');
  const values = parts.map(readNumber);
  return parts.length > 0 && parts.length <= 7 && values.every(Number.isFinite)
    ? values.map((value) => value * scale)
    : null;
}

/** Values of an input as they are typed. */
export function writeValues(values: readonly number[], input: Input): string {
  const scale = input === 'years' ? DAYS_PER_YEAR : axisValue(input, 1);
  return values.map((value) => Number((value * scale).toPrecision(5))).join(', ');
}
