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
    item('THEO-1', 'Theodolite', 'GOODS', 184_500, 2),
    item('LEVEL', 'Spirit level, brass', 'GOODS', 7_480, 12),
    item('STAFF', 'Levelling staff', 'GOODS', 12_350, 6),
    item('CLEAN', 'Cleaning and adjustment', 'REPAIR', 9_800, 4),
  ],
  places: [
    place('XB', 'XB-SO', 'Solmar Haven', 'S4001', 'SO', 20),
    place('XB', 'XB-HA', 'Hallowgate', 'H2200', 'HA', 10),
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
