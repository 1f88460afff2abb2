import { covers, type IsoDate } from '../../baseline/dates.ts'
import type { BaselineIndex } from '../../baseline/lookup.ts'
import type { Determination } from '../../determination/determination.ts'
import { assuming, type Cause } from './cause.ts'

/** The rates of another date. */
export interface RateDate {
  readonly kind: 'rate-date'
  readonly date: IsoDate
}

export const rateDate: Cause<RateDate, { readonly date: string }> = {
  kind: 'rate-date',
  rank: () => 11,
  key: (a) => [a.date],
  candidates: ({ document, determination, index }) =>
    otherDates((document.original?.document ?? document).supplyDate, determination, index).map((date) => ({
      kind: 'rate-date',
      date,
    })),
  apply: (a, on) => assuming(on, { ratesOn: a.date }),
  facts: ({ date }) => ({ date }),
  says: (f, date) => `${f.system} used the rates of ${date(f.date)}.`,
}

/** One date per other version of the rates concerned. */
function otherDates(date: IsoDate, { jurisdictions }: Determination, index: BaselineIndex): IsoDate[] {
  const versions = jurisdictions
    .flatMap((j) => index.ratesOf(j.id))
    .filter((version) => !covers(version.valid, date))
  return [
    ...new Set(
      versions.map(({ valid }) => (valid.from <= date && valid.to !== null ? valid.to : valid.from)),
    ),
  ].sort()
}
