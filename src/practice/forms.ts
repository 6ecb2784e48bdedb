import type { AdForm } from './world-state.ts';

/** The forms of Wrenfield Music School's ads. Every name is invented. */
export const WRENFIELD_FORMS: AdForm[] = [
  {
    id: 'form-trial-lesson',
    name: 'Trial lesson',
    account: 'school',
    page: { id: 'page-school', name: 'Wrenfield Music School' },
    live: true,
    ad: { campaign: 'autumn-trial', adSet: 'parents-25km', ad: 'grand-piano-clip' },
    hidden: {
      utm_source: 'ad-platform',
      utm_medium: 'paid-social',
      utm_campaign: 'autumn-trial',
      utm_content: 'grand-piano-clip',
    },
    questions: [
      { key: 'first_name', label: 'First name', kind: 'short' },
      { key: 'last_name', label: 'Last name', kind: 'short' },
      { key: 'email', label: 'Email', kind: 'email' },
      { key: 'phone', label: 'Phone', kind: 'phone' },
      {
        key: 'instrument',
        label: 'Which instrument?',
        kind: 'choice',
        choices: ['Piano', 'Violin', 'Guitar', 'Cello', 'Flute', 'Singing', 'Drums'],
      },
      {
        key: 'consent',
        label: 'Wrenfield may text and email me about lessons. I can stop this at any time.',
        kind: 'tick',
      },
    ],
  },
  {
    id: 'form-summer-camp',
    name: 'Summer camp',
    account: 'school',
    page: { id: 'page-school', name: 'Wrenfield Music School' },
    live: false,
    ad: { campaign: 'summer-camp', adSet: 'families-10km', ad: 'lawn-orchestra' },
    hidden: {
      utm_source: 'ad-platform',
      utm_medium: 'paid-social',
      utm_campaign: 'summer-camp',
      utm_content: 'lawn-orchestra',
    },
    questions: [
      { key: 'full_name', label: 'Your name', kind: 'short' },
      { key: 'email', label: 'Email', kind: 'email' },
      { key: 'mobile', label: 'Mobile number', kind: 'phone' },
      {
        key: 'child_age',
        label: 'Age of your child',
        kind: 'choice',
        choices: ['6 to 8', '9 to 11', '12 to 14', '15 to 17'],
      },
      {
        key: 'consent',
        label: 'Wrenfield may text and email me about the camp. I can stop this at any time.',
        kind: 'tick',
      },
    ],
  },
  {
    id: 'form-evening-choir',
    name: 'Evening choir',
    account: 'adults',
    page: { id: 'page-adults', name: 'Wrenfield Evenings' },
    live: true,
    ad: { campaign: 'evening-choir', adSet: 'adults-evening', ad: 'sing-out' },
    hidden: {
      utm_source: 'ad-platform',
      utm_medium: 'paid-social',
      utm_campaign: 'evening-choir',
      utm_content: 'sing-out',
    },
    questions: [
      { key: 'full_name', label: 'Your name', kind: 'short' },
      { key: 'email', label: 'Email', kind: 'email' },
      { key: 'phone', label: 'Phone', kind: 'phone' },
      { key: 'voice', label: 'Your voice', kind: 'choice', choices: ['High', 'Middle', 'Low', 'No idea yet'] },
      {
        key: 'consent',
        label: 'Wrenfield may text and email me about the choir. I can stop this at any time.',
        kind: 'tick',
      },
    ],
  },
];
