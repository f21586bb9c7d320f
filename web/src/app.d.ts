declare global {
  namespace App {
    interface PageState {
      /** Whether the address was written by the page itself, and not by a link. */
      isOwn?: boolean;
    }
  }
}

export {};
