import type { Config, Data, Layout } from 'plotly.js';
import type { Tokens } from '$lib/ui/theme.svelte';
import type { DataTable } from '$lib/tables/data-table';

/** A chart with its figures as a table, which is built only when it is opened. */
export interface Figure {
  data: Data[];
  layout: Partial<Layout>;
  table: () => DataTable;
}

export const MONO = "'Atkinson Hyperlegible Mono', monospace";

/** One template for all charts: fonts, grid, hover. */
export function baseLayout(tokens: Tokens): Partial<Layout> {
  return {
    paper_bgcolor: 'rgba(0,0,0,0)',
    plot_bgcolor: 'rgba(0,0,0,0)',
    font: { family: MONO, size: 11, color: tokens.soft },
    margin: { l: 40, r: 10, t: 8, b: 30 },
    showlegend: false,
    hovermode: 'closest',
    hoverlabel: {
      bgcolor: tokens.panel,
      bordercolor: tokens.soft,
      font: { family: MONO, size: 11, color: tokens.ink },
      align: 'left',
    },
    dragmode: 'zoom',
  };
}

/** Lines and ticks of an axis. */
export function baseAxis(tokens: Tokens): Partial<Layout['xaxis']> {
  return {
    gridcolor: tokens.line,
    gridwidth: 1,
    griddash: 'solid',
    zeroline: false,
    linecolor: tokens.line,
    showline: true,
    ticks: '',
    fixedrange: false,
    tickfont: { family: MONO, size: 11, color: tokens.soft },
    automargin: false,
    // Both make Plotly measure every label, and the browser lay the page out for each.
    tickangle: 0,
    ticklabeloverflow: 'allow',
  };
}

export const CONFIG: Partial<Config> = {
  displaylogo: false,
  responsive: false,
  displayModeBar: 'hover' as unknown as boolean,
  modeBarButtonsToRemove: ['select2d', 'lasso2d', 'autoScale2d', 'zoomIn2d', 'zoomOut2d', 'toggleSpikelines'] as never,
  toImageButtonOptions: { format: 'png', scale: 2, filename: 'umwelt' },
  doubleClick: 'reset',
};

/**
 * A range that stays fixed while values move: it grows when something does not fit, and shrinks only when
 * what it is for changes.
 */
export class HeldRange {
  private key = '';
  private range: [number, number] = [0, 1];

  /**
   * @param key what the axis is for; another one starts again
   * @param values what must fit, NaN passed over
   * @param margin share of the span left free at both ends
   */
  of(key: string, values: Iterable<number>, margin = 0.06): [number, number] {
    let low = Infinity;
    let high = -Infinity;
    for (const value of values) {
      if (value < low) low = value;
      if (value > high) high = value;
    }
    if (!(low <= high)) return this.range;
    const pad = (high - low || Math.abs(high) || 1) * margin;
    if (key !== this.key) this.range = [low - pad, high + pad];
    else {
      if (low < this.range[0]) this.range = [low - pad, this.range[1]];
      if (high > this.range[1]) this.range = [this.range[0], high + pad];
    }
    this.key = key;
    return [...this.range];
  }
}
