import { randomUUID } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { hasKey, readJson, reply } from './http.ts';
import type { Telling } from './subscribers.ts';
import type { Appointment, Push } from './world-state.ts';

export const CALENDARS = [
  { id: 'cal-piano', name: 'Piano room' },
  { id: 'cal-string', name: 'String room' },
];

/** The booking calendar: appointments in two rooms, booked by customers or by the desk. Its API is in docs/gateways.md. */
export class CalendarDesk {
  constructor(private readonly at: Telling) {}

  async take(path: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
    if (!hasKey(request, response, this.at.token)) return;
    if (path === '/calendars' && request.method === 'GET') return reply(response, 200, { calendars: CALENDARS });
    if (path !== '/subscriptions' || request.method !== 'POST')
      return reply(response, 404, { code: 'not-here', detail: 'There is nothing here.' });
    const body = await readJson(request);
    const wanted = Array.isArray(body.calendars) ? body.calendars.map(String) : null;
    if (wanted?.some((id) => !CALENDARS.some((calendar) => calendar.id === id)))
      return reply(response, 404, { code: 'no-calendar', detail: 'There is no such calendar.' });
    const topics = wanted ? wanted.map((id) => `calendar:${id}`) : [''];
    const made = this.at.subscribers.add('calendar', topics, null, body.url, body.secret);
    if (!made) return reply(response, 422, { code: 'shape', detail: 'A url and a secret are needed.' });
    reply(response, 201, { id: made.id });
  }

  book(details: Omit<Appointment, 'id' | 'status'>): Promise<Push[]> {
    const appointment: Appointment = { id: `apt-${randomUUID().slice(0, 8)}`, status: 'booked', ...details };
    this.at.world.state.appointments.push(appointment);
    return this.tell(appointment);
  }

  change(id: string, status: Appointment['status']): Promise<Push[]> {
    const appointment = this.at.world.state.appointments.find((appointment) => appointment.id === id)!;
    const previousStart = appointment.start;
    if (status === 'moved')
      for (const end of ['start', 'end'] as const)
        appointment[end] = new Date(Date.parse(appointment[end]) + 86_400_000).toISOString();
    appointment.status = status;
    return this.tell(appointment, status === 'moved' ? { previousStart } : {});
  }

  private tell({ calendar, status, ...appointment }: Appointment, more: object = {}): Promise<Push[]> {
    const id = randomUUID();
    this.at.world.changed();
    return this.at.subscribers.tell(
      {
        service: 'calendar',
        topics: [`calendar:${calendar}`],
        event: status,
        eventId: id,
        subject: `${appointment.person.name}, ${status}`,
        value: {
          type: `appointment.${status}`,
          id,
          at: new Date().toISOString(),
          appointment: structuredClone({
            ...appointment,
            ...more,
            calendar: CALENDARS.find((one) => one.id === calendar)!,
            timeZone: 'Europe/London',
          }),
        },
      },
      this.at.world.state.trouble.calendarSendsTwice,
    );
  }
}
