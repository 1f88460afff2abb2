/** A place that the baseline of the demo does not have, with an agency that it does not have either. */
export const NEW_AGENCY = {
  is: 'new',
  code: 'SLD',
  name: 'Sallow Levy Board',
  account: '2216',
  registration: { number: 'S-77', basis: 'accrual', frequency: 'quarter' },
}
export const NEW_PLACE = {
  code: 'WN-SAL',
  name: 'Sallow Levy',
  level: 'district',
  parent: 'WN',
  covers: [{ country: 'XA', region: 'XA-WN', postalCode: '40999' }],
  percent: '0.85',
  onTopOf: [],
  rounding: null,
  agency: NEW_AGENCY,
}
