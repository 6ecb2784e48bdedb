import { countChosen } from '../../../app/choosing.ts';
import { LeadChoice } from '../../../core/people/lead-choice.ts';
import { takes } from '../../../web/endpoint.ts';

export const POST = takes(LeadChoice, (use, choice) => countChosen(use, choice));
