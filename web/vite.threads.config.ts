import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { defineConfig } from 'vite';

const SERVER = join(import.meta.dirname, 'src/lib/server');
const PROGRAM = /\.thread\.ts$/;

/** Programs of threads, bundled: without a loader they begin sooner and run quicker. */
export default defineConfig({
  build: {
    ssr: true,
    target: 'node20',
    outDir: 'build-threads',
    emptyOutDir: true,
    rolldownOptions: {
      input: Object.fromEntries(
        readdirSync(SERVER, { recursive: true, encoding: 'utf8' })
          .filter((path) => PROGRAM.test(path))
          .map((path) => [path.replace(PROGRAM, ''), join(SERVER, path)]),
      ),
      output: { entryFileNames: '[name].js', chunkFileNames: 'chunks/[name]-[hash].js' },
    },
  },
});
