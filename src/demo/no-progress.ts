import type { Progress } from '../db/hot/rows.ts';

/** What a made-up run has come to so far: nothing. */
export const noProgress = (): Required<Progress> => ({
  deliveries: [],
  links: [],
  questions: [],
  answers: [],
  steps: [],
  moments: [],
  leads: [],
  needs: [],
  runs: [],
});
