import { accountRoutes } from './account.ts';
import { businessesRoutes } from './businesses.ts';
import { calendarRoutes } from './calendar.ts';
import { connectionsRoutes } from './connections.ts';
import { conversationsRoutes } from './conversations.ts';
import { dealsRoutes } from './deals.ts';
import { leadsRoutes } from './leads.ts';
import { listsRoutes } from './lists.ts';
import { messagesRoutes } from './messages.ts';
import { peopleRoutes } from './people.ts';
import { resultsRoutes } from './results.ts';
import { sharesRoutes } from './shares.ts';
import { sheetsRoutes } from './sheets.ts';
import { sourcesRoutes } from './sources.ts';
import { todayRoutes } from './today.ts';
import { workflowsRoutes } from './workflows.ts';

/** Every door of the API. Its paths stand below /api. */
export const ROUTES = [
  ...accountRoutes,
  ...businessesRoutes,
  ...calendarRoutes,
  ...connectionsRoutes,
  ...conversationsRoutes,
  ...dealsRoutes,
  ...leadsRoutes,
  ...listsRoutes,
  ...messagesRoutes,
  ...peopleRoutes,
  ...resultsRoutes,
  ...sharesRoutes,
  ...sheetsRoutes,
  ...sourcesRoutes,
  ...todayRoutes,
  ...workflowsRoutes,
] as const;
