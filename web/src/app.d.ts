declare global {
  // The types of the framework are used as they are.
  namespace App {}
}

export {};
