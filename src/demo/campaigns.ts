/** An ad of a campaign, and the people it is shown to. */
interface Ad {
  ad: string;
  adSet: string;
}

export interface Campaign {
  name: string;
  /** Of the leads of the ad form. */
  share: number;
  ads: Ad[];
  /** What a lead costs, in pounds. */
  perLead: number;
  /** Of the leads so many book, of those so many come, and of those so many sign up. */
  books: number;
  comes: number;
  signsUp: number;
}

/** Wrenfield's ad campaigns: one that is cheap in leads and poor in sales, one dear and good, and one too small to say anything of. */
export const CAMPAIGNS: readonly [Campaign, ...Campaign[]] = [
  {
    ...{ name: 'autumn-trial', share: 0.56, perLead: 3.4, books: 0.2, comes: 0.82, signsUp: 0.42 },
    ads: [
      { ad: 'grand-piano-clip', adSet: 'parents-25km' },
      { ad: 'first-violin', adSet: 'parents-25km' },
      { ad: 'sing-out', adSet: 'adults-evening' },
      { ad: 'drum-room', adSet: 'teens-10km' },
    ],
  },
  {
    ...{ name: 'win-a-guitar', share: 0.27, perLead: 1.9, books: 0.03, comes: 0.6, signsUp: 0.15 },
    ads: [
      { ad: 'prize-draw', adSet: 'everyone-40km' },
      { ad: 'free-guitar', adSet: 'everyone-40km' },
    ],
  },
  {
    ...{ name: 'piano-evenings', share: 0.14, perLead: 8.2, books: 0.44, comes: 0.9, signsUp: 0.62 },
    ads: [
      { ad: 'after-work-piano', adSet: 'adults-evening' },
      { ad: 'first-nocturne', adSet: 'adults-evening' },
    ],
  },
  {
    ...{ name: 'flute-week', share: 0.03, perLead: 4.2, books: 0.2, comes: 0.8, signsUp: 0.4 },
    ads: [
      { ad: 'flute-bright', adSet: 'families-10km' },
      { ad: 'flute-soft', adSet: 'families-10km' },
    ],
  },
];

/** The ad somebody came by. `chance` from 0 to 1. */
export function adBy(chance: number): { campaign: Campaign } & Ad {
  let rest = chance;
  for (const campaign of CAMPAIGNS) {
    if (rest < campaign.share) {
      const ad = campaign.ads[Math.floor((rest / campaign.share) * campaign.ads.length)]!;
      return { campaign, ...ad };
    }
    rest -= campaign.share;
  }
  const campaign = CAMPAIGNS[0];
  return { campaign, ...campaign.ads[0]! };
}
