import { item, place, type SmallEntity } from './entity.ts'

/** A maker of instruments in a country with a federal tax, and a regional one on top of it; its books are in a currency without digits. Its ledger has last year's regional percent. */
export const QUILLON: SmallEntity = {
  id: 'quillon',
  name: 'Quillon Instruments',
  currency: 'JPY',
  timeZone: 'Asia/Tokyo',
  prefix: 'QI',
  agencies: [
    ['NFT', 'Norwick Federal Treasury', '2240', 'Federal tax'],
    ['STO', 'Solmar Tax Office', '2242', 'Solmar tax'],
  ],
  jurisdictions: [
    {
      code: 'XB',
      name: 'Norwick',
      level: 'country',
      parent: null,
      agency: 'NFT',
      covers: [{ country: 'XB' }],
    },
    {
      code: 'XB-SO',
      name: 'Solmar',
      level: 'region',
      parent: 'XB',
      agency: 'STO',
      covers: [{ country: 'XB', region: 'XB-SO' }],
    },
    {
      code: 'XB-HA',
      name: 'Hallow',
      level: 'region',
      parent: 'XB',
      agency: null,
      covers: [{ country: 'XB', region: 'XB-HA' }],
    },
  ],
  rates: [
    {
      code: 'SO',
      name: 'Norwick with Solmar',
      components: [
        { jurisdiction: 'XB', agency: 'NFT', name: 'Norwick federal', percent: '5.00' },
        { jurisdiction: 'XB-SO', agency: 'STO', name: 'Solmar', percent: '8.00', onTopOf: [0] },
      ],
    },
    {
      code: 'HA',
      name: 'Norwick, elsewhere',
      components: [{ jurisdiction: 'XB', agency: 'NFT', name: 'Norwick federal', percent: '5.00' }],
    },
  ],
  codes: [
    ['GOODS', 'Instruments'],
    ['REPAIR', 'Repairs'],
  ],
  codeRules: [
    { jurisdiction: 'XB', itemTaxCode: 'GOODS', treatment: 'standard' },
    { jurisdiction: 'XB', itemTaxCode: 'REPAIR', treatment: 'exempt' },
  ],
  regions: ['XB-SO', 'XB-HA'],
  items: [
    item('THEO-1', 'Theodolite', { taxCode: 'GOODS', price: 184_500, most: 2 }),
    item('LEVEL', 'Spirit level, brass', { taxCode: 'GOODS', price: 7_480, most: 12 }),
    item('STAFF', 'Levelling staff', { taxCode: 'GOODS', price: 12_350, most: 6 }),
    item('CLEAN', 'Cleaning and adjustment', { taxCode: 'REPAIR', price: 9_800, most: 4 }),
  ],
  places: [
    place({ country: 'XB', region: 'XB-SO', city: 'Solmar Haven', postalCode: 'S4001' }, 'SO', 20),
    place({ country: 'XB', region: 'XB-HA', city: 'Hallowgate', postalCode: 'H2200' }, 'HA', 10),
  ],
  names: [
    'Solmar Survey Company',
    'Harbour Works',
    'Kestane & Oru',
    'Hallowgate Institute',
    'Upland Railway',
  ],
  rateFor: ({ rate }, { taxCode }) => (taxCode === 'REPAIR' ? null : rate),
  wrongRate: (rate) => ({
    ...rate,
    components: rate.components.map((c) => (c.agency === 'STO' ? { ...c, percent: '7.50' } : c)),
  }),
}
