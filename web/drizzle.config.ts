import { defineConfig } from 'drizzle-kit';

/** `npx drizzle-kit generate` in this folder writes the next migration from the schema. */
export default defineConfig({ dialect: 'postgresql', schema: './src/lib/server/db/schema.ts', out: './drizzle' });
