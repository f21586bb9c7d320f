import { isRunning, type Workbench, problemOf } from '$lib/state';
import { call } from '$lib/api/call';
import {
  hasChangedData,
  isMoving,
  type Holdings,
  type ImportPreview,
  type ImportRecord,
  type ImportSummary,
} from './imports';

const LOOK_OFTEN_MS = 400;
const LOOK_SELDOM_MS = 5000;

/** A file that is being uploaded. */
export interface Upload {
  name: string;
  bytes: number;
  sent: number;
}

/** How a file is to be read, as currently set. */
export type Settings = Partial<Pick<ImportPreview, 'kind' | 'columns' | 'conventions'>> & { acceptBadRows?: boolean };

/** What the Data view shows: imports, tasks and holdings, looked at again while something moves. */
export class DataDesk {
  imports = $state.raw<ImportSummary[] | null>(null);
  holdings = $state.raw<Holdings | null>(null);
  uploads = $state<Upload[]>([]);
  problem = $state<string | null>(null);
  /** The import that is looked at. */
  open = $state<number | null>(null);
  preview = $state.raw<ImportPreview | null>(null);
  record = $state.raw<ImportRecord | null>(null);

  private timer: ReturnType<typeof setTimeout> | undefined;
  private wasBusy = false;
  private readings = 0;
  private isEnded = false;

  constructor(private readonly bench: Workbench) {}

  /** Whether anything is being done. */
  get isBusy(): boolean {
    return (this.imports ?? []).some(isMoving) || this.bench.tasks.list.some(isRunning);
  }

  /** Begins polling; returns what ends it. */
  start(): () => void {
    const look = async () => {
      await this.refresh();
      if (!this.isEnded) this.timer = setTimeout(look, this.isBusy ? LOOK_OFTEN_MS : LOOK_SELDOM_MS);
    };
    void look();
    void this.loadHoldings();
    return () => {
      this.isEnded = true;
      clearTimeout(this.timer);
    };
  }

  private async attempt<T>(work: () => Promise<T>): Promise<T | null> {
    try {
      const answer = await work();
      this.problem = null;
      return answer;
    } catch (error) {
      this.problem = problemOf(error);
      return null;
    }
  }

  /** Polls at once. */
  async refresh(): Promise<void> {
    const answer = await call('GET /imports').catch(() => null);
    const { imports: before } = this;
    if (answer) this.imports = answer.imports;
    else this.problem = 'The server does not answer. Is Umwelt still running?';
    if (this.open !== null) await this.loadRecord(this.open);
    // Results are shown at once: other work may take long.
    const hasCome = answer !== null && before !== null && hasChangedData(before, answer.imports);
    if (hasCome || (this.wasBusy && !this.isBusy)) {
      this.bench.reload();
      await this.loadHoldings();
    }
    this.wasBusy = this.isBusy;
  }

  private async loadHoldings(): Promise<void> {
    this.holdings = await call('GET /holdings').catch(() => this.holdings);
  }

  private async loadRecord(id: number): Promise<void> {
    const record = await call('GET /imports/{id}', { path: { id } }).catch(() => null);
    if (record && this.open === id) this.record = record;
  }

  /** Sends files, each to be looked at before it is imported; opens the first. */
  async receive(files: Iterable<File>): Promise<void> {
    for (const file of files) {
      const record = await this.attempt(() => this.send(file));
      await this.refresh();
      if (record && this.open === null) await this.look(record.id);
    }
  }

  private send(file: File): Promise<ImportRecord> {
    this.uploads.push({ name: file.name, bytes: file.size, sent: 0 });
    const upload = this.uploads.at(-1)!;
    // fetch does not say how much of a body has been sent.
    const request = new XMLHttpRequest();
    return new Promise<ImportRecord>((resolve, reject) => {
      request.open('POST', `/api/v1/imports?hold=true&name=${encodeURIComponent(file.name)}`);
      request.setRequestHeader('content-type', 'application/octet-stream');
      request.upload.onprogress = ({ loaded }) => (upload.sent = loaded);
      request.onerror = () => reject(new Error(`${file.name} could not be sent: the server does not answer.`));
      request.onload = () => {
        const answer = JSON.parse(request.responseText) as ImportRecord & { detail?: string };
        if (request.status === 202) resolve(answer);
        else reject(new Error(`${file.name}: ${answer.detail ?? request.status}`));
      };
      request.send(file);
    }).finally(() => {
      this.uploads = this.uploads.filter((other) => other.name !== upload.name || other.bytes !== upload.bytes);
    });
  }

  /** Opens an import to be looked at, or closes it. */
  async look(id: number | null): Promise<void> {
    this.problem = null;
    this.open = id;
    this.preview = null;
    this.record = null;
    if (id === null) return;
    await Promise.all([this.loadRecord(id), this.readAs({})]);
  }

  /** Reads the first rows of the open import by other settings. What was chosen is shown at once. */
  async readAs(settings: Settings): Promise<void> {
    const id = this.open;
    if (id === null) return;
    const turn = ++this.readings;
    const { kind, columns, conventions } = settings;
    if (this.preview && kind && columns && conventions) this.preview = { ...this.preview, kind, columns, conventions };
    const answer = await this.attempt(() =>
      call('POST /imports/{id}/preview', { path: { id }, body: { kind, columns, conventions } }),
    );
    // Another choice may have been made meanwhile.
    if (!answer || this.open !== id || turn !== this.readings) return;
    if ('problem' in answer) this.problem = `The file cannot be read: ${answer.problem}`;
    else this.preview = answer;
  }

  private async act(work: () => Promise<unknown>): Promise<boolean> {
    const done = await this.attempt(work);
    await this.refresh();
    return done !== null;
  }

  check = (id: number, settings: Settings) =>
    this.act(() => call('POST /imports/{id}/check', { path: { id }, body: settings }));
  importFile = (id: number, settings: Settings) =>
    this.act(() => call('POST /imports/{id}/start', { path: { id }, body: settings }));
  stop = (id: number) => this.act(() => call('POST /imports/{id}/cancel', { path: { id } }));
  takeBack = (id: number) => this.act(() => call('POST /imports/{id}/undo', { path: { id } }));
  stopTask = async (id: number) => {
    await this.act(() => call('POST /tasks/{id}/cancel', { path: { id } }));
    this.bench.tasks.look();
  };

  async rebuild(): Promise<void> {
    await this.attempt(() => call('POST /tasks', { body: { kind: 'rebuild' } }));
    this.bench.tasks.look();
    await this.refresh();
  }
}
