import { Pack, type Starter } from './pack.ts';

const pack = new Pack();
const feed = pack.connected('content-feed', 'Our episodes', { fields: {}, consent: { kind: 'not_asked' } });
const list = pack.nurtureList('Newsletter');
const author = pack.somebody('Whoever writes the posts');

export const newEpisode: Starter = {
  id: 'new-episode',
  name: 'New episode: to everybody on a list',
  about: 'Emails your newsletter when a new episode or article comes out, and tells a colleague to post about it.',
  comesBy: 'feed',
  goesOut: ['list', 'email', 'team'],
  file: pack.file(
    'New episode',
    [feed],
    [
      {
        lead: [
          pack.any('mailing', {
            to: `list:${list}`,
            subject: 'New: {{ answers.title }}',
            message:
              'Hello {{ lead.first_name | default: "there" }},\n\n{{ answers.title }} is out.\n\n{{ answers.summary }}\n\n{{ answers.link }}\n\nKind regards\n{{ business.name }}\n\nNo more of these: {{ lead.leave_link }}',
            needsConsent: false,
            purpose: 'marketing',
          }),
        ],
        team: [
          pack.tell(
            author,
            'Out now: {{ answers.title }}',
            '{{ answers.title }}\n{{ answers.link }}\n\nIt has gone to the newsletter. Time to post about it.\n',
          ),
        ],
      },
    ],
    { samePerson: 'run_again' },
  ),
};
