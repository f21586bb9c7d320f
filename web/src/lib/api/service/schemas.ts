/** The application itself. */
import { z } from 'zod';

export const Health = z
  .object({ status: z.literal('ok'), database: z.literal('ok'), version: z.string() })
  .meta({ id: 'Health' });
