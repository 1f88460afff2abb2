import { item, place, type SmallEntity } from './entity.ts'

const HOME = place({ country: 'XC', region: 'XC-VE', city: 'Fernhollow', postalCode: '8010' }, 'XC-STD', 22)
const CAFE = place({ country: 'XC', region: 'XC-VE', city: 'Fernhollow', postalCode: '8011' }, 'XC-STD', 30)
const NORTH = place({ country: 'XD', region: 'XD-NO', city: 'Norrby', postalCode: 'D1200' }, 'XD', 8)
const EAST = place({ country: 'XE', region: 'XE-EA', city: 'Estmark', postalCode: 'E4400' }, 'XE', 6)

/**
 * A tea wholesaler and café under value added tax: standard, reduced and zero rates at home, prices with tax inside in the café, and
 * one agency that takes the tax of customers abroad at the rate of each country. Its ledger still has last year's reduced rate. Wrapping
 * and deposits are typed on its invoices by hand: no item of the catalogue says what they are, and a rule books the wrapping as a cost.
 * The tax on what it buys can be had back, but for half of what vehicles cost, and all of meals with guests; what it buys at the market
 * is taxed by one supplier and not by another.
 */
export const FERNHOLLOW: SmallEntity = {
  id: 'fernhollow',
  name: 'Fernhollow Tea Rooms',
  currency: 'EUR',
  timeZone: 'Europe/Vienna',
  prefix: 'FH',
  agencies: [
    ['VTO', 'Vellmark Tax Office', '2500', 'Value added tax'],
    ['JSO', 'Joint Scheme Office', '2510', 'Value added tax abroad'],
  ],
  jurisdictions: [
    {
      code: 'XC',
      name: 'Vellmark',
      level: 'country',
      parent: null,
      agency: 'VTO',
      covers: [{ country: 'XC' }],
    },
    {
      code: 'XC-ALL',
      name: 'All of Vellmark',
      level: 'region',
      parent: 'XC',
      agency: null,
      covers: [{ country: 'XC' }],
    },
    {
      code: 'XD',
      name: 'Norrland',
      level: 'country',
      parent: null,
      agency: 'JSO',
      covers: [{ country: 'XD' }],
    },
    {
      code: 'XD-ALL',
      name: 'All of Norrland',
      level: 'region',
      parent: 'XD',
      agency: null,
      covers: [{ country: 'XD' }],
    },
    {
      code: 'XE',
      name: 'Estmark',
      level: 'country',
      parent: null,
      agency: 'JSO',
      covers: [{ country: 'XE' }],
    },
    {
      code: 'XE-ALL',
      name: 'All of Estmark',
      level: 'region',
      parent: 'XE',
      agency: null,
      covers: [{ country: 'XE' }],
    },
  ],
  rates: [
    {
      code: 'XC-STD',
      name: 'Vellmark, standard',
      components: [{ jurisdiction: 'XC', agency: 'VTO', name: 'Vellmark', percent: '20.00' }],
    },
    {
      code: 'XC-RED',
      name: 'Vellmark, reduced',
      itemTaxCode: 'FOOD',
      components: [{ jurisdiction: 'XC', agency: 'VTO', name: 'Vellmark', percent: '5.00' }],
    },
    {
      code: 'XD',
      name: 'Norrland, joint scheme',
      components: [{ jurisdiction: 'XD', agency: 'JSO', name: 'Norrland', percent: '25.00' }],
    },
    {
      code: 'XE',
      name: 'Estmark, joint scheme',
      components: [{ jurisdiction: 'XE', agency: 'JSO', name: 'Estmark', percent: '22.00' }],
    },
  ],
  codes: [
    ['WARE', 'Ware for the table'],
    ['FOOD', 'Food served or packed'],
    ['LEAF', 'Tea in the leaf'],
    ['DEPOSIT', 'Deposits that are given back'],
    ['VEHICLE', 'Vehicles and their fuel'],
    ['GUESTS', 'Meals with guests'],
  ],
  codeRules: [
    { jurisdiction: 'XC', itemTaxCode: 'WARE', treatment: 'standard', recoverable: '100' },
    { jurisdiction: 'XC', itemTaxCode: 'FOOD', treatment: 'reduced', percent: '5.00', recoverable: '100' },
    { jurisdiction: 'XC', itemTaxCode: 'LEAF', treatment: 'zero-rated' },
    { jurisdiction: 'XC', itemTaxCode: 'VEHICLE', treatment: 'standard', recoverable: '50' },
    { jurisdiction: 'XC', itemTaxCode: 'GUESTS', treatment: 'standard' },
    ...['XD', 'XE'].flatMap((jurisdiction) =>
      ['WARE', 'FOOD', 'LEAF'].map((itemTaxCode) => ({
        jurisdiction,
        itemTaxCode,
        treatment: 'standard' as const,
      })),
    ),
    ...['XC', 'XD', 'XE'].map((jurisdiction) => ({
      jurisdiction,
      itemTaxCode: 'DEPOSIT',
      treatment: 'out-of-scope' as const,
    })),
  ],
  typed: [
    { ...item('', 'Gift wrapping', { taxCode: 'WARE', price: 350, most: 3 }), typed: true },
    { ...item('', 'Deposit, returnable crate', { taxCode: 'DEPOSIT', price: 450, most: 6 }), typed: true },
  ],
  rules: [
    {
      code: 'WRAP',
      name: 'Wrapping handed on',
      when: { item: null, text: 'gift wrapping', region: null, party: null, method: null, channel: null },
      then: { itemTaxCode: null, account: '5000', dimension: null },
      from: '2024-01-01',
      to: null,
    },
  ],
  accounts: [
    ['4090', 'Wrapping and extras', 'income'],
    ['2600', 'Deposits held', 'current-liability'],
    ['1450', 'Value added tax to be had back', 'asset'],
    ['2100', 'Trade creditors', 'current-liability'],
    ['5000', 'Purchases', 'expense'],
  ],
  bought: {
    items: [
      item('BUY-POT', 'Pots from the kiln', { taxCode: 'WARE', price: 2210, most: 30 }),
      item('BUY-FLOUR', 'Flour, 25 kg', { taxCode: 'FOOD', price: 1895, most: 12 }),
      item('BUY-LEAF', 'Leaf by the chest', { taxCode: 'LEAF', price: 8740, most: 5 }),
      item('BUY-VAN', 'Van, a week’s hire', { taxCode: 'VEHICLE', price: 19933, most: 1 }),
      item('BUY-DINNER', 'Dinner with guests', { taxCode: 'GUESTS', price: 6317, most: 2 }),
    ],
    typed: ['WARE', 'LEAF'].map((code) => ({
      ...item('', 'Sundries from the market', { taxCode: code, price: 1290, most: 3 }),
      typed: true as const,
    })),
    suppliers: ['Kiln at Harrow', 'Molinar Flour', 'Tarrow & Sons, importers'],
    place: HOME,
    rateFor: ({ taxCode }) => (taxCode === 'LEAF' ? null : taxCode === 'FOOD' ? 'XC-RED' : 'XC-STD'),
    accounts: { payable: '2100', expense: '5000' },
    recovered: { VTO: '1450' },
  },
  regions: ['XC-ALL', 'XD-ALL', 'XE-ALL'],
  items: [
    item('POT-6', 'Stoneware pot, six cups', { taxCode: 'WARE', price: 4890, most: 4 }),
    item('CUP-2', 'Pair of cups', { taxCode: 'WARE', price: 1950, most: 8 }),
    item('SCONE-12', 'Scones, a dozen', { taxCode: 'FOOD', price: 1440, most: 10 }),
    item('CAKE', 'Seed cake', { taxCode: 'FOOD', price: 1260, most: 6 }),
    item('LEAF-KE', 'Keemun, 250 g', { taxCode: 'LEAF', price: 1175, most: 20 }),
    item('LEAF-GR', 'Smoked green, 100 g', { taxCode: 'LEAF', price: 890, most: 20 }),
  ],
  places: [HOME, CAFE, NORTH, EAST],
  names: [
    'Hotel Zur Linde',
    'The Lending Library',
    'Kupferberg Delicatessen',
    'Atelier am Kai',
    'Marta’s Kiosk',
    'Brukshandel Norrby',
  ],
  rateFor: ({ rate }, { taxCode }) =>
    taxCode === 'DEPOSIT'
      ? null
      : rate !== 'XC-STD'
        ? rate
        : taxCode === 'LEAF'
          ? null
          : taxCode === 'FOOD'
            ? 'XC-RED'
            : rate,
  inside: (where) => where === CAFE,
  wrongRate: (rate) =>
    rate.code === 'XC-RED'
      ? { ...rate, components: rate.components.map((c) => ({ ...c, percent: '8.00' })) }
      : rate,
}

/** The answer key of its amounts that are no item: in which system, how they are worded, and as which finding they stand. The application never reads it. */
export const FERNHOLLOW_AMOUNTS = [
  ['Billing', 'Gift wrapping', 'AXION_AMOUNT_OPEN'],
  ['Billing', 'Gift wrapping', 'AXION_COST_TAXED'],
  ['Billing', 'Deposit, returnable crate', 'AXION_AMOUNT_OPEN'],
  ['Purchasing', 'Sundries from the market', 'AXION_AMOUNT_OPEN'],
  ['Purchasing', 'Sundries from the market', 'AXION_AMOUNT_MIXED'],
] as const
