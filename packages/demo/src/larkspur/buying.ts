import type { Draw } from '../shared/draw.ts'
import type { Rate, SystemData } from '../shared/sale.ts'
import {
  agenciesOf,
  BASE,
  documentOf,
  goods,
  methodsOf,
  ratesOf,
  september,
  type Objects,
} from './otherParts.ts'
import { OSIER, QUILLBY, rateOf } from './places.ts'

/** Bills of suppliers with the tax they charge, paid by transfer or by a company card. */
export function buying(draw: Draw): SystemData {
  const suppliers = [
    'Brindle Timber',
    'Wax & Wick Supply',
    'Northbank Glass',
    'Ferrier Sheet Metal',
    'Corran Paper',
  ]
  const wrong = (rate: Rate): Rate =>
    rate.code === 'TK'
      ? {
          ...rate,
          components: rate.components.map((c) => (c.to === '2026-10-31' ? { ...c, percent: '5.75' } : c)),
        }
      : rate
  const bills = Array.from({ length: 12 }, (_, at): Objects[number] => {
    const name = suppliers[at % suppliers.length] ?? ''
    return {
      resource: 'documents',
      id: `bill_${at + 1}`,
      value: documentOf({
        id: `B-${301 + at}`,
        number: `B-${301 + at}`,
        kind: 'bill',
        date: september(2 + Math.floor((at * 28) / 11)),
        at: null,
        place: at % 3 === 2 ? OSIER : QUILLBY,
        location: null,
        party: { id: `sup_${at % suppliers.length}`, name },
        lines: goods(draw, 2),
        rateId: (code) => `buy_${code}`,
        agencyId: (code) => `buy_agency_${code}`,
        rateOf: (code) => wrong(rateOf(code)),
        method: null,
      }),
    }
  })
  return {
    settings: { ...BASE, computesTax: false },
    objects: [
      ...agenciesOf('buy', ['WRO', 'TDT']),
      ...ratesOf('buy', ['WN', 'TK'], wrong),
      ...suppliers.map((name, at) => ({
        resource: 'parties',
        id: `sup_${at}`,
        value: { name, address: null, exemption: null },
      })),
      ...methodsOf([
        ['pm_transfer', 'Bank transfer', 'transfer'],
        ['pm_card_yard', 'Company card, yard', 'card', '****4417'],
        ['pm_card_office', 'Company card, office', 'card', '****9023'],
      ]).map((o) =>
        o.id === 'pm_transfer' ? { ...o, value: { ...(o.value as object), active: false } } : o,
      ),
      ...bills,
    ],
  }
}
