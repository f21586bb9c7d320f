import basic from 'plotly.js-basic-dist-min/plotly-basic.min.js?url';
import cartesian from 'plotly.js-cartesian-dist-min/plotly-cartesian.min.js?url';

type Plotly = typeof import('plotly.js');

/** Partial bundles: most charts need lines only. */
const SOURCES = { basic, cartesian } as const;
export type Bundle = keyof typeof SOURCES;

const loading = new Map<Bundle, Promise<Plotly>>();

/**
 * Loads a partial bundle of Plotly when the first chart asks for it. The file ships as it is: passing a minified
 * megabyte through the bundler again only made the build slower.
 */
export function loadPlotly(bundle: Bundle = 'basic'): Promise<Plotly> {
  const known = loading.get(bundle);
  if (known) return known;
  const asked = new Promise<Plotly>((resolve, reject) => {
    const script = document.createElement('script');
    script.src = SOURCES[bundle];
    // Each bundle assigns the same global when it runs, so it is read immediately.
    script.onload = () => resolve((globalThis as unknown as { Plotly: Plotly }).Plotly);
    script.onerror = () => {
      loading.delete(bundle);
      reject(new Error('the charts could not be loaded'));
    };
    document.head.append(script);
  });
  loading.set(bundle, asked);
  return asked;
}

const waiting: (() => void)[] = [];
let isDrawing = false;

function drawNext(): void {
  const draw = waiting.shift();
  isDrawing = draw !== undefined;
  if (!draw) return;
  draw();
  // A task queued in an animation frame runs after that frame is painted.
  requestAnimationFrame(() => setTimeout(drawNext));
}

/**
 * Draws at once, or after the charts already queued: one chart per task, so that the first is painted before
 * the second is computed.
 */
export function inTurn(draw: () => void): void {
  waiting.push(draw);
  if (!isDrawing) drawNext();
}
