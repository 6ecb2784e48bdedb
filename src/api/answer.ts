import type { APIContext } from 'astro';
import findMyWay from 'find-my-way';
import { z } from 'zod';
import { demand } from '../app/actor.ts';
import { notHere, Refusal } from '../app/refusal.ts';
import { keepWithin } from '../app/wall.ts';
import { problemResponse } from '../web/problem-response.ts';
import { SESSION_COOKIE } from '../web/session-cookie.ts';
import { surroundings } from '../web/surroundings.ts';
import { bySchema, readBytes, readJson } from './read-sent.ts';
import type { Asked, Method, Route } from './route.ts';
import { ROUTES } from './table.ts';

/** The only name in a path that is no id. */
const NO_ID = 'kind';

const router = findMyWay({ ignoreTrailingSlash: true });
for (const route of ROUTES as readonly unknown[] as readonly Route[])
  router.on(route.method, route.path, () => {}, route);
const METHODS = ['GET', 'POST', 'PUT', 'DELETE'] as const;

/** The door that is knocked at, with the names in its path. */
function find(method: string, path: string): { route: Route; names: Record<string, string> } {
  const found = METHODS.some((one) => one === method) ? router.find(method as Method, path) : null;
  if (!found) {
    const others = METHODS.filter((method) => router.find(method, path));
    if (others.length === 0) throw notHere('page or entry');
    throw new Refusal(405, 'method', `This is asked for by ${others.join(' or ')}.`);
  }
  const names = found.params as Record<string, string>;
  // What cannot be an id leads to nothing, and never as far as the database.
  if (Object.entries(names).some(([name, value]) => name !== NO_ID && !z.uuid().safeParse(value).success))
    throw notHere('page or entry');
  return { route: found.store as Route, names };
}

const answerOf = (value: unknown): Response =>
  value instanceof Response
    ? value
    : new Response(JSON.stringify(value ?? null), {
        headers: { 'content-type': 'application/json', 'cache-control': 'no-store' },
      });

/** Answers whatever is asked below /api, by the table of routes. */
export async function answer(context: APIContext): Promise<Response> {
  try {
    const use = surroundings(context);
    const { request, url } = context;
    const { route, names } = find(request.method, url.pathname.replace(/^\/api(?=\/|$)/, '') || '/');
    demand(use.actor, route.right);
    const query = url.searchParams;
    const asked: Asked = {
      ...{ names, query, request, address: context.clientAddress },
      cookie: context.cookies.get(SESSION_COOKIE)?.value,
    };
    if (route.schema) {
      const { value, text } = await readJson(request);
      await keepWithin(use, `${text} ${query} ${Object.values(names).join(' ')}`);
      asked.input = bySchema(route.schema, value);
    } else {
      await keepWithin(use, `${query} ${Object.values(names).join(' ')}`);
      if (route.mostBytes !== undefined)
        asked.file = {
          name: (query.get('name') ?? '').slice(0, 200),
          bytes: await readBytes(request, route.mostBytes),
          tab: query.get('tab'),
        };
    }
    return answerOf(await route.answer(use, asked));
  } catch (error) {
    return problemResponse(error);
  }
}
