import { endpoint } from '$lib/server/api';
import { database } from '$lib/server/database';
import { holdings } from '$lib/server/market';

export const GET = endpoint(() => holdings(database()));
