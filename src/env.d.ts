/// <reference path="../.astro/types.d.ts" />

declare namespace App {
  interface Locals {
    runtime: import('./runtime.ts').Runtime;
    /** Null on pages that need no sign-in. */
    actor: import('./app/actor.ts').Actor | null;
    theme: 'paper' | 'night' | null;
  }
}
