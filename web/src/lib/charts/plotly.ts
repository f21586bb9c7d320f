import source from 'plotly.js-basic-dist-min/plotly-basic.min.js?url';

type Plotly = typeof import('plotly.js');

let loading: Promise<Plotly> | null = null;

/**
 * Loads Plotly's partial bundle when the first chart asks for it. The file ships as it is: passing a minified
 * megabyte through the bundler again only made the build slower.
 */
export function loadPlotly(): Promise<Plotly> {
  loading ??= new Promise<Plotly>((resolve, reject) => {
    const script = document.createElement('script');
    script.src = source;
    script.onload = () => resolve((globalThis as unknown as { Plotly: Plotly }).Plotly);
    script.onerror = () => {
      loading = null;
      reject(new Error('the charts could not be loaded'));
    };
    document.head.append(script);
  });
  return loading;
}

const waiting: (() => void)[] = [];
let isDrawing = false;

function drawNext(): void {
  const draw = waiting.shift();
  isDrawing = draw !== undefined;
  if (!draw) return;
  draw();
  // A task set up in a frame comes after that frame has been painted.
  requestAnimationFrame(() => setTimeout(drawNext));
}

/**
 * Draws at once, or after the charts that are being drawn: one chart a task, so that the first is painted before
 * the second is worked out.
 */
export function inTurn(draw: () => void): void {
  waiting.push(draw);
  if (!isDrawing) drawNext();
}
