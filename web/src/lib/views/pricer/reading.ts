import type { SideReading } from '@umwelt/core';
import { figures } from '$lib/formats';
import type { DataTable } from '$lib/tables/data-table';
import type { Priced } from './desk.svelte';
import { moneyDecimals } from './words';

/** A line of the reading: what it is, whether it is money, and how it is written. */
export interface ReadingLine {
  name: keyof SideReading;
  label: string;
  title?: string;
  /** Counts by the contract and the position. */
  isMoney: boolean;
  group: 'value' | 'first' | 'higher' | 'odds';
  write: (value: number, decimals: number) => string;
}

const money = (value: number, decimals: number) => figures.fixed(value, moneyDecimals(decimals));
const greek = (value: number) => figures.significant(value, 5);
const higher = (value: number) => figures.significant(value, 4);
const odds = (value: number) => figures.percent(value, 2);

/** What is read off both sides, in the order of the screen. */
export const READING: readonly ReadingLine[] = [
  { name: 'price', label: 'Price', isMoney: true, group: 'value', write: money },
  { name: 'intrinsic', label: 'Intrinsic', isMoney: true, group: 'value', write: money },
  { name: 'timeValue', label: 'Time value', isMoney: true, group: 'value', write: money },
  {
    name: 'earlyPremium',
    label: 'Early exercise',
    title: 'over the European contract',
    isMoney: true,
    group: 'value',
    write: money,
  },
  {
    name: 'breakEven',
    label: 'Break-even',
    isMoney: false,
    group: 'value',
    write: (value, decimals) => figures.fixed(value, Math.max(2, decimals)),
  },
  { name: 'delta', label: 'Delta', isMoney: true, group: 'first', write: greek },
  { name: 'gamma', label: 'Gamma', isMoney: true, group: 'first', write: greek },
  { name: 'theta', label: 'Theta', title: 'a calendar day', isMoney: true, group: 'first', write: greek },
  { name: 'vega', label: 'Vega', title: 'a vol point', isMoney: true, group: 'first', write: greek },
  { name: 'rho', label: 'Rho', title: 'a percentage point', isMoney: true, group: 'first', write: greek },
  {
    name: 'volPerDay',
    label: 'Vol for a day',
    title: 'vol points that undo what a day takes',
    isMoney: false,
    group: 'first',
    write: (value) => figures.fixed(value, 3),
  },
  { name: 'vanna', label: 'Vanna', title: 'delta a vol point', isMoney: true, group: 'higher', write: higher },
  { name: 'volga', label: 'Volga', title: 'vega a vol point', isMoney: true, group: 'higher', write: higher },
  { name: 'charm', label: 'Charm', title: 'delta a day', isMoney: true, group: 'higher', write: higher },
  { name: 'speed', label: 'Speed', title: 'gamma a unit of price', isMoney: true, group: 'higher', write: higher },
  { name: 'color', label: 'Color', title: 'gamma a day', isMoney: true, group: 'higher', write: higher },
  { name: 'veta', label: 'Veta', title: 'vega a day', isMoney: true, group: 'higher', write: higher },
  { name: 'zomma', label: 'Zomma', title: 'gamma a vol point', isMoney: true, group: 'higher', write: higher },
  { name: 'itm', label: 'In-the-money odds', title: 'at expiry', isMoney: false, group: 'odds', write: odds },
  {
    name: 'breakEvenOdds',
    label: 'Break-even odds',
    title: 'odds that the price paid is earned back',
    isMoney: false,
    group: 'odds',
    write: odds,
  },
  {
    name: 'touch',
    label: 'Touch odds',
    title: 'of the strike, at any time',
    isMoney: false,
    group: 'odds',
    write: odds,
  },
];

/** A line of a side in the unit of the screen. */
export function lineValue({ name, isMoney }: ReadingLine, reading: SideReading, factor: number): number {
  const value = reading[name] as number;
  return isMoney ? value * factor : value;
}

/** The reading as a table. */
export function readingTable({ call, put }: Priced, factor: number, decimals: number): DataTable {
  return {
    columns: [
      { name: 'value', type: 'text' },
      { name: 'call', type: 'number', write: (value) => figures.significant(value, 6 + decimals) },
      { name: 'put', type: 'number', write: (value) => figures.significant(value, 6 + decimals) },
    ],
    rows: READING.map((line) => [
      line.label.toLowerCase(),
      lineValue(line, call, factor),
      lineValue(line, put, factor),
    ]),
  };
}
