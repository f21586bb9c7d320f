import { endpoint } from '$lib/server/api';
import { holdingsCounts, keptAnswers } from '$lib/server/database';
import { ANY_SYMBOL } from '$lib/server/api/kept';

const made = endpoint(() => holdingsCounts().holdings());

export const GET = endpoint((event) => keptAnswers().answer(event, ANY_SYMBOL, () => made(event)));
