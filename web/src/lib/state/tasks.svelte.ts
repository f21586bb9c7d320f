import { hasBrought, isRunning, loadTasks, type Task } from '$lib/data/api';

const LOOK_OFTEN_MS = 700;
const LOOK_SELDOM_MS = 15_000;

/** Long work of the server, which is looked at again and again: often while some runs. */
export class TaskStore {
  /** The latest first. */
  list = $state.raw<Task[]>([]);
  private looks = $state(0);

  /**
   * @param alongside what is looked at as often
   * @param onBrought called when a task has changed the data
   */
  constructor(
    private readonly alongside: () => Promise<void>,
    private readonly onBrought: () => void,
  ) {
    $effect(() => this.follow());
  }

  /** Looks at once, since a task was begun. */
  look(): void {
    this.looks++;
  }

  private follow(): () => void {
    void this.looks;
    let timer: ReturnType<typeof setTimeout>;
    let isEnded = false;
    const look = async () => {
      const [now] = await Promise.all([loadTasks(), this.alongside()]);
      if (isEnded) return;
      if (now) {
        if (hasBrought(this.list, now)) this.onBrought();
        this.list = now;
      }
      timer = setTimeout(() => void look(), this.list.some(isRunning) ? LOOK_OFTEN_MS : LOOK_SELDOM_MS);
    };
    void look();
    return () => {
      isEnded = true;
      clearTimeout(timer);
    };
  }
}
