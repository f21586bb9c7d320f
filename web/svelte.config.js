import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { brotliCompress, constants, gzip } from 'node:zlib';

const COMPRESSED = /\.(js|css|json|svg|html|txt)$/;
/** The adapter's own quality, 11, takes seven times as long for 4 % less; 10 takes six times as long as 9 for a chart library. */
const brotli = (/** @type {Buffer} */ { length }) => ({
  params: { [constants.BROTLI_PARAM_QUALITY]: length > 500_000 ? 9 : 10 },
});

/** Writes compressed copies beside the files of a folder. @param {string} folder */
async function compress(folder) {
  if (!existsSync(folder)) return;
  const files = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((name) => COMPRESSED.test(name));
  await Promise.all(
    files.map(async (name) => {
      const path = join(folder, name);
      const bytes = readFileSync(path);
      writeFileSync(`${path}.br`, await promisify(brotliCompress)(bytes, brotli(bytes)));
      writeFileSync(`${path}.gz`, await promisify(gzip)(bytes));
    }),
  );
}

const node = adapter({ out: 'build' });

/** @type {import('@sveltejs/kit').Config} */
export default {
  preprocess: vitePreprocess(),
  kit: {
    adapter: { ...node, adapt: (builder) => node.adapt({ ...builder, compress }) },
    // hooks.server.ts compares Origin and Host itself, so that scripts may post forms (multipart files) too.
    csrf: { trustedOrigins: ['*'] },
    version: { pollInterval: 0 },
    // Scripts of ours alone; the one that begins a page has a nonce. Styles of elements are written by charts and formulas.
    csp: {
      mode: 'nonce',
      directives: {
        'default-src': ['none'],
        'script-src': ['self'],
        'style-src': ['self', 'unsafe-inline'],
        'img-src': ['self', 'data:', 'blob:'],
        'font-src': ['self', 'data:'],
        'connect-src': ['self'],
        'worker-src': ['self', 'blob:'],
        'manifest-src': ['self'],
        'base-uri': ['none'],
        'form-action': ['self'],
        'frame-ancestors': ['none'],
        'object-src': ['none'],
      },
    },
  },
};
