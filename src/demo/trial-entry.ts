import { WRENFIELD_FORMS } from '../practice/forms.ts';
import type { Told } from './other-pasts.ts';
import type { Invented } from './people.ts';

/** An entry of the form for trial lessons, by an ad. */
export function entryOf(
  person: Invented,
  ad: { campaign: string; ad: string; adSet: string },
  { shout, agrees, n }: { shout: boolean; agrees: boolean; n: number },
): Told['sent'] {
  const form = WRENFIELD_FORMS[0]!;
  const answers: Record<string, string> = {
    first_name: shout ? person.first.toUpperCase() : person.first,
    last_name: shout ? person.last.toUpperCase() : person.last,
    email: shout ? person.email.toUpperCase() : person.email,
    phone: person.phone,
    instrument: person.instrument,
    consent: agrees ? 'true' : 'false',
  };
  return {
    contentType: 'application/json',
    body: JSON.stringify({
      type: 'form.entry',
      entry: {
        id: `past-${person.email}-${n}`,
        form: { id: form.id, name: form.name },
        page: form.page,
        ad: { campaign: ad.campaign, adSet: ad.adSet, ad: ad.ad },
        hidden: { ...form.hidden, utm_campaign: ad.campaign, utm_content: ad.ad },
        answers: form.questions.flatMap((question) => {
          const answer = {
            key: question.key,
            label: question.kind === 'tick' ? 'Consent' : question.label,
            value: answers[question.key],
          };
          return question.kind === 'tick'
            ? [answer, { key: `${question.key}_wording`, label: 'Consent wording', value: question.label }]
            : [answer];
        }),
      },
    }),
  };
}
