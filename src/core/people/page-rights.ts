import { mayDo, type Right, type Role } from './rights.ts';

/** What each part of the screens asks for, by the beginning of its path; the longest that fits counts. */
const BY_PATH: Record<string, Right> = {
  '/': 'see-work',
  '/begin': 'build',
  '/businesses': 'own',
  '/calendar': 'see-work',
  '/connections': 'see-setup',
  '/conversations': 'see-work',
  '/from-file': 'build',
  '/help': 'own',
  '/leads': 'see-work',
  '/lists': 'see-setup',
  '/messages': 'see-setup',
  '/not-here': 'own',
  '/not-yours': 'own',
  '/pipeline': 'see-work',
  '/results': 'see-results',
  '/settings': 'see-setup',
  '/settings/people': 'see-work',
  '/settings/tags': 'see-setup',
  '/settings/you': 'own',
  '/sheets': 'see-setup',
  '/sign-out': 'own',
  '/sources': 'see-setup',
  '/workflows': 'see-setup',
};

/**
 * The right a page asks for, by its path without the query: "/leads/0190…" gives "see-work". Null for a path nothing is said of, which is no page.
 */
export function pageRight(path: string): Right | null {
  if (path === '/') return BY_PATH['/']!;
  if (/^\/workflows\/[^/]+\/results$/.test(path)) return 'see-results';
  const parts = path.split('/').slice(1);
  for (let n = parts.length; n > 0; n--) {
    const right = BY_PATH[`/${parts.slice(0, n).join('/')}`];
    if (right) return right;
  }
  return null;
}

/** Whether somebody of this role may open what an address of ours leads to. */
export function mayOpen(role: Role, href: string): boolean {
  const right = pageRight(href.split(/[?#]/, 1)[0]!);
  return right !== null && mayDo(role, right);
}
