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
