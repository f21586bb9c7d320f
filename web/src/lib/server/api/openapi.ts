import { z } from 'zod';
import { createDocument, type ZodOpenApiOperationObject, type ZodOpenApiPathsObject } from 'zod-openapi';
import * as schemas from './schemas';
import { VERSION } from './version';

const Id = z.object({ id: z.string() });
const Symbol_ = z.object({ symbol: z.string() });

interface Described {
  summary: string;
  body?: z.ZodType;
  query?: z.ZodObject;
  path?: z.ZodObject;
  response: z.ZodType;
  csv?: boolean;
  status?: string;
  /** Makes something, once for a key of the caller's. */
  creates?: boolean;
}

const Once = z.object({
  'idempotency-key': z
    .string()
    .optional()
    .describe('the same request with the same key makes one thing alone, and is answered as it was'),
});

const problems = Object.fromEntries(
  [
    ['400', 'Invalid input, with the place of each fault'],
    ['404', 'Not held'],
    ['409', 'Not in the state that this needs, or changed meanwhile: `current` says what it is now'],
    ['413', 'More than is read of a body'],
    ['422', 'Understood, and not to be done'],
    ['429', 'Too many at a time'],
    ['500', 'Internal error'],
    ['503', 'The database is away, or took too long'],
    ['507', 'The disk of the database is full'],
  ].map(([status, description]) => [
    status,
    { description, content: { 'application/problem+json': { schema: schemas.Problem } } },
  ]),
);

function operation({
  summary,
  body,
  query,
  path,
  response,
  csv,
  status = '200',
  creates,
}: Described): ZodOpenApiOperationObject {
  return {
    summary,
    ...(query || path || creates
      ? { requestParams: { ...(query && { query }), ...(path && { path }), ...(creates && { header: Once }) } }
      : {}),
    ...(body ? { requestBody: { required: true, content: { 'application/json': { schema: body } } } } : {}),
    responses: {
      [status]: {
        description: summary,
        content: {
          'application/json': { schema: response },
          ...(csv ? { 'text/csv': { schema: z.string() } } : {}),
        },
      },
      ...problems,
    },
  } as ZodOpenApiOperationObject;
}

const get = (described: Described) => ({ get: operation(described) });

const file = { schema: z.string().describe('a file of docs/formats.md') };

const onImport = (summary: string, response: z.ZodType = schemas.ImportRecord) => ({
  post: operation({ summary, path: Id, body: schemas.ImportSettings, response }),
});

const paths: ZodOpenApiPathsObject = {
  '/health': get({ summary: 'Whether the application and its database answer', response: schemas.Health }),
  '/price': {
    post: operation({
      summary: 'Prices, Greeks and odds of contracts under any model',
      body: schemas.PriceRequest,
      response: schemas.PriceResponse,
    }),
  },
  '/implied-vol': {
    post: operation({
      summary: 'Implied vols of prices, or the reason why there is none',
      body: schemas.ImpliedVolRequest,
      response: schemas.ImpliedVolResponse,
    }),
  },
  '/realized-vol': {
    post: operation({
      summary: 'Historical vols of bars by any estimator, rolling',
      body: schemas.RealizedVolRequest,
      response: schemas.RealizedVolResponse,
    }),
  },
  '/variance-index': {
    post: operation({
      summary: 'The index of two expiries by the published rule alone, extrapolation included',
      body: schemas.VarianceIndexRequest,
      response: schemas.VarianceIndexResponse,
    }),
  },
  '/surface/fit': {
    post: operation({
      summary: 'Curves through given vols without arbitrage, what these vols say of it, and the surface in between',
      body: schemas.SurfaceFitRequest,
      response: schemas.SurfaceFitResponse,
    }),
  },
  '/probabilities': {
    post: operation({
      summary: 'Odds to end beyond levels, to touch them, and to end between them',
      body: schemas.ProbabilitiesRequest,
      response: schemas.ProbabilitiesResponse,
    }),
  },
  '/expected-move': {
    post: operation({
      summary: 'How far the price is expected to move, by the straddle at the money and as one deviation',
      body: schemas.ExpectedMoveRequest,
      response: schemas.ExpectedMoveResponse,
    }),
  },
  '/max-pain': {
    post: operation({
      summary: 'What open contracts are worth by settlement price, and where that is least',
      body: schemas.MaxPainRequest,
      response: schemas.MaxPainResponse,
    }),
  },
  '/screens': {
    get: operation({ summary: 'Screens that are kept, by name', response: schemas.KeptScreensResponse }),
    post: operation({
      summary: 'Keeps a screen, or changes the one of its name',
      body: schemas.KeptScreenRequest,
      creates: true,
      response: schemas.KeptScreensResponse,
    }),
  },
  '/screens/{id}': {
    delete: operation({
      summary: 'Lets go of a screen that was kept',
      path: z.object({ id: z.string() }),
      response: schemas.KeptScreensResponse,
    }),
  },
  '/screen': {
    get: operation({
      summary: 'The same for a spreadsheet: formulas in the address, and a table of values',
      query: schemas.ScreenQuery,
      response: schemas.ScreenResponse,
      csv: true,
    }),
    post: operation({
      summary: 'Formulas as columns and filters over all underlyings at a moment',
      body: schemas.ScreenRequest,
      response: schemas.ScreenResponse,
    }),
  },
  '/skews': {
    post: operation({
      summary: 'The curve nearest to so many days of each of some underlyings',
      body: schemas.SkewsRequest,
      response: schemas.SkewsResponse,
    }),
  },
  '/cones': {
    post: operation({
      summary: 'Historical vols by window of each of some underlyings, and what is implied',
      body: schemas.ConesRequest,
      response: schemas.ConesResponse,
    }),
  },
  '/underlyings': get({
    summary: 'All underlyings with their measures at a moment',
    query: schemas.AsofQuery,
    response: schemas.UnderlyingsResponse,
    csv: true,
  }),
  '/underlyings/{symbol}': get({
    summary: 'One underlying with its measures at a moment',
    path: Symbol_,
    query: schemas.AsofQuery,
    response: schemas.UnderlyingMeasures,
  }),
  '/underlyings/{symbol}/peers': get({
    summary: 'Underlyings that move most like one of them',
    path: Symbol_,
    query: schemas.PeersQuery,
    response: schemas.PeersResponse,
  }),
  '/underlyings/{symbol}/snapshots': get({
    summary: 'The moments held, with their measures',
    path: Symbol_,
    response: schemas.SnapshotsResponse,
    csv: true,
  }),
  '/underlyings/{symbol}/snapshots/{asof}': get({
    summary: 'A whole snapshot as columns',
    path: Symbol_.extend({ asof: z.string().describe('a moment, or latest') }),
    response: schemas.SnapshotResponse,
  }),
  '/underlyings/{symbol}/doubtful': get({
    summary: 'Measures that move and come back within two sessions while their neighbours and the price do not',
    path: Symbol_,
    query: schemas.DoubtfulQuery,
    response: schemas.DoubtfulResponse,
    csv: true,
  }),
  '/underlyings/{symbol}/expected-moves': get({
    summary: 'Expected moves of every expiry, at a moment or at the end of each session from a day on',
    path: Symbol_,
    query: schemas.ExpectedMovesQuery,
    response: schemas.ExpectedMovesResponse,
    csv: true,
  }),
  '/underlyings/{symbol}/open-contracts': get({
    summary: 'Open contracts of an expiry by strike, and where they were worth least at the end of each session',
    path: Symbol_,
    query: schemas.OpenContractsQuery,
    response: schemas.OpenContractsResponse,
  }),
  '/underlyings/{symbol}/intraday-bars': get({
    summary: 'Bars of a quarter of an hour of a session, of whatever finer ones are held',
    path: Symbol_,
    query: schemas.IntradayBarsQuery,
    response: schemas.IntradayBarsResponse,
    csv: true,
  }),
  '/underlyings/{symbol}/prints': get({
    summary: 'The tape: trades with their distance from theory at their time',
    path: Symbol_,
    query: schemas.TapeRequestQuery,
    response: schemas.TapeResponse,
    csv: true,
  }),
  '/structures': {
    get: operation({
      summary: 'Structures that are kept, with what they are worth on the curve at a moment',
      query: schemas.AsofQuery,
      response: schemas.StructuresResponse,
      csv: true,
    }),
    post: operation({
      summary: 'Keeps a structure at what it is worth',
      body: schemas.StructureRequest,
      creates: true,
      response: schemas.StructuresResponse,
    }),
  },
  '/structures/{id}': {
    put: operation({
      summary: 'Changes how many there are of a structure, or what is noted of it',
      path: Id,
      body: schemas.StructureChange,
      response: schemas.StructuresResponse,
    }),
    delete: operation({ summary: 'Lets go of a structure', path: Id, response: schemas.StructuresResponse }),
  },
  '/structures/{id}/restore': {
    post: operation({
      summary: 'Brings back a structure that was let go of',
      path: Id,
      response: schemas.StructuresResponse,
    }),
  },
  '/underlyings/{symbol}/chain': get({
    summary: 'Contracts with implied vols, and values under a vol basis',
    path: Symbol_,
    query: schemas.ChainQuery,
    response: z.union([schemas.ChainResponse, schemas.ChainColumnsResponse]),
    csv: true,
  }),
  '/underlyings/{symbol}/surface': get({
    summary: 'Skews and term structure',
    path: Symbol_,
    query: schemas.AsofQuery,
    response: schemas.SurfaceResponse,
  }),
  '/underlyings/{symbol}/curves': get({
    summary: 'Fitted curves and their measures between two moments',
    path: Symbol_,
    query: schemas.CurvesQuery,
    response: schemas.CurvesResponse,
  }),
  '/underlyings/{symbol}/history': get({
    summary: 'Prices, implied and historical vols by session',
    path: Symbol_,
    query: schemas.HistoryQuery,
    response: schemas.HistoryResponse,
    csv: true,
  }),
  '/underlyings/{symbol}/events': get({
    summary: 'Dividends and announcements',
    path: Symbol_,
    response: schemas.EventsResponse,
    csv: true,
  }),
  '/underlyings/{symbol}/borrowings': {
    ...get({
      summary: 'The expiries whose curve is taken from another one',
      path: Symbol_,
      response: schemas.BorrowingsResponse,
    }),
    post: operation({
      summary: 'Lets an expiry borrow its curve, or gives it its own one back',
      path: Symbol_,
      body: schemas.BorrowingRequest,
      response: schemas.BorrowingsResponse,
    }),
  },
  '/underlyings/{symbol}/verdicts': {
    post: operation({
      summary: 'Sets a contract or an expiry of a snapshot aside, or takes it back into use',
      path: Symbol_,
      body: schemas.VerdictRequest,
      response: schemas.SnapshotResponse,
    }),
  },
  '/holdings': get({ summary: 'What is held, by underlying and session', response: schemas.HoldingsResponse }),
  '/imports': {
    get: operation({ summary: 'The latest imports', response: schemas.ImportsResponse, csv: true }),
    post: {
      ...operation({
        summary: 'Takes a file, streamed, and puts its import into the queue',
        query: schemas.ImportQuery,
        creates: true,
        response: schemas.ImportRecord,
        status: '202',
      }),
      requestBody: {
        required: true,
        content: { 'text/csv': file, 'multipart/form-data': { schema: z.object({ file: z.string() }) } },
      },
    },
  },
  '/imports/{id}': get({
    summary: 'One import: progress, counts, and its bad rows',
    path: Id,
    response: schemas.ImportRecord,
  }),
  '/imports/{id}/errors': get({
    summary: 'The bad rows of an import',
    path: Id,
    response: schemas.ImportRecord.pick({ errors: true }),
    csv: true,
  }),
  '/imports/{id}/preview': onImport('The first rows of a file, as they would be read', schemas.ImportPreview),
  '/imports/{id}/check': onImport('Finds out what an import would change, and what is wrong with the file'),
  '/imports/{id}/start': onImport('Imports a file that was held, checked or undone'),
  '/imports/{id}/cancel': { post: operation({ summary: 'Stops an import', path: Id, response: schemas.ImportRecord }) },
  '/imports/{id}/undo': {
    post: operation({ summary: 'Puts back what an import has changed', path: Id, response: schemas.ImportRecord }),
  },
  '/exports/{file}': {
    get: operation({
      summary:
        'A table as a file: {underlyings, rates, dividends, events, bars, intraday-bars, chain, prints, positions, measures}.{csv, json, xlsx, parquet, ics}',
      path: z.object({ file: z.string().describe('such as chain.parquet') }),
      query: schemas.ExportQuery,
      response: z.unknown(),
    }),
    post: operation({
      summary: 'A table that is sent, as a file of another format',
      path: z.object({ file: z.string().describe('a name and a format, such as skew.xlsx') }),
      body: schemas.ViewTable,
      response: z.unknown(),
    }),
  },
  '/feed': {
    get: operation({ summary: 'The simulated feed as it stands', response: schemas.FeedResponse }),
    post: operation({
      summary: 'Lets the simulated feed go on, stand still, or begin anew',
      body: schemas.FeedRequest,
      response: schemas.FeedResponse,
    }),
  },
  '/stream': {
    get: {
      ...operation({
        summary: 'Server-sent events of the simulated feed; who reads slowly gets the newest of each kind',
        query: schemas.StreamQuery,
        response: schemas.FeedResponse,
      }),
      responses: {
        '200': {
          description:
            'events `feed` (as /feed, when it has changed), `prices` (of all underlyings) and `snapshot` (as /underlyings/{symbol}/snapshots/{asof})',
          content: {
            'text/event-stream': {
              schema: z.union([schemas.FeedResponse, schemas.StreamPrices, schemas.SnapshotResponse]),
            },
          },
        },
        ...problems,
      },
    },
  },
  '/tasks': {
    get: operation({ summary: 'Long work: the latest tasks', response: schemas.TasksResponse }),
    post: operation({
      summary: 'Derives fits and measures anew, or writes a table as a file',
      body: schemas.TaskRequest,
      creates: true,
      response: schemas.TaskRecord,
      status: '202',
    }),
  },
  '/tasks/{id}': get({ summary: 'One task', path: Id, response: schemas.TaskRecord }),
  '/tasks/{id}/file': get({ summary: 'The file that a task has made', path: Id, response: z.unknown() }),
  '/tasks/{id}/cancel': { post: operation({ summary: 'Stops a task', path: Id, response: schemas.TaskRecord }) },
};

/** The OpenAPI 3.1 document of the API, generated from the schemas that the endpoints use. */
export function openApiDocument() {
  return createDocument({
    openapi: '3.1.0',
    info: {
      title: 'Umwelt',
      version: VERSION,
      description: 'Everything that the screens compute. Units as in docs/conventions.md. Errors are problem details.',
    },
    servers: [{ url: '/api/v1' }],
    paths,
  });
}
