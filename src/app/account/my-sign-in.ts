import type { Use } from '../use.ts';
import { listPasskeys, type PasskeyView } from './passkeys.ts';
import { getSecond, type SecondView } from './second-factor.ts';
import { listSessions, type SessionView } from './session.ts';

/** How somebody signs in, and where they have. */
export interface MySignInView {
  sessions: SessionView[];
  second: SecondView;
  keys: PasskeyView[];
}

export async function mySignIn(use: Use): Promise<MySignInView> {
  const [sessions, second, keys] = await Promise.all([listSessions(use), getSecond(use), listPasskeys(use)]);
  return { sessions, second, keys };
}
