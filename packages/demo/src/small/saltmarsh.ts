import { item, place, type SmallEntity } from './entity.ts'

/** A small seller of rope and paint in one region, whose ledger sends the harbour levy to accruals. */
export const SALTMARSH: SmallEntity = {
  id: 'saltmarsh',
  name: 'Saltmarsh Chandlery',
  currency: 'USD',
  timeZone: 'America/New_York',
  prefix: 'SC',
  agencies: [
    ['EYR', 'Estuary Revenue', '2310', 'Estuary sales tax'],
    ['GBH', 'Gullbay Harbour Board', '2312', 'Harbour levy'],
  ],
  jurisdictions: [
    {
      code: 'XA',
      name: 'Aldermark',
      level: 'country',
      parent: null,
      agency: null,
      covers: [{ country: 'XA' }],
    },
    {
      code: 'EY',
      name: 'State of Estuary',
      level: 'region',
      parent: 'XA',
      agency: 'EYR',
      covers: [{ country: 'XA', region: 'XA-EY' }],
    },
    {
      code: 'EY-GB',
      name: 'Gullbay Harbour',
      level: 'district',
      parent: 'EY',
      agency: 'GBH',
      covers: [{ country: 'XA', region: 'XA-EY', postalCode: '71003' }],
    },
  ],
  rates: [
    {
      code: 'GB',
      name: 'Gullbay, Estuary',
      components: [
        { jurisdiction: 'EY', agency: 'EYR', name: 'Estuary', percent: '5.75' },
        { jurisdiction: 'EY-GB', agency: 'GBH', name: 'Gullbay Harbour', percent: '0.40' },
      ],
    },
    {
      code: 'EY',
      name: 'Estuary, rest',
      components: [{ jurisdiction: 'EY', agency: 'EYR', name: 'Estuary', percent: '5.75' }],
    },
  ],
  codes: [['GOODS', 'Goods']],
  codeRules: [{ jurisdiction: 'EY', itemTaxCode: 'GOODS', treatment: 'standard' }],
  regions: ['EY'],
  items: [
    item('ROPE-12', 'Mooring rope, 12 mm', { taxCode: 'GOODS', price: 340, most: 60 }),
    item('PAINT-B', 'Bottom paint, 2.5 l', { taxCode: 'GOODS', price: 7890, most: 6 }),
    item('CLEVIS', 'Galvanised shackle', { taxCode: 'GOODS', price: 565, most: 40 }),
    item('LAMP', 'Anchor lamp', { taxCode: 'GOODS', price: 12450, most: 3 }),
  ],
  places: [
    place({ country: 'XA', region: 'XA-EY', city: 'Gullbay', postalCode: '71003' }, 'GB', 18),
    place({ country: 'XA', region: 'XA-EY', city: 'Marram', postalCode: '71200' }, 'EY', 8),
  ],
  earlier: ['2026-08'],
  names: [
    'Gullbay Ferry Company',
    'Dunlin & Sons',
    'Pilot House',
    'Marram Sailing School',
    'The Oyster Sheds',
  ],
  rateFor: ({ rate }) => rate,
  wrongAccount: { GBH: '2390' },
}
