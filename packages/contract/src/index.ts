/** The edges: the bridge contract and the application's API, from which validation, types and documents come. */
export * from './bridge/kinds.ts'
export * from './bridge/about.ts'
export * from './bridge/books.ts'
export * from './bridge/committed.ts'
export * from './bridge/documents.ts'
export * from './bridge/money.ts'
export * from './bridge/paging.ts'
export * from './bridge/resources.ts'
export * from './bridge/setUp.ts'
export {
  amount,
  boundedText,
  currency,
  date,
  decimal,
  exchangeRate,
  instant,
  lastDate,
  locale,
  percent,
  timeOfDay,
  timeZone,
} from './bridge/primitives.ts'
export * from './bridge/decode.ts'
export { decodeCommitted, MOST_UNITS } from './bridge/decodeTaxes.ts'
export * from './bridge/entries.ts'
export * from './bridge/rates.ts'
export * from './bridge/openapi.ts'
export * from './api/acts.ts'
export type { NamePiece } from './api/ofCore.ts'
export * from './api/align.ts'
export * from './api/grid.ts'
export * from './api/baseline.ts'
export * from './api/agreed.ts'
export * from './api/bulk.ts'
export * from './api/copied.ts'
export * from './api/certificates.ts'
export * from './api/files.ts'
export * from './api/newRate.ts'
export * from './api/opening.ts'
export * from './api/registrations.ts'
export * from './api/remedy.ts'
export * from './api/rules.ts'
export * from './api/sale.ts'
export * from './api/decisions.ts'
export * from './sentences/decisions.ts'
export * from './api/scope.ts'
export * from './api/evidence.ts'
export * from './api/connectViews.ts'
export * from './api/entities.ts'
export * from './api/pathViews.ts'
export * from './api/peopleViews.ts'
export * from './api/postViews.ts'
export * from './api/tieoutViews.ts'
export * from './api/lists.ts'
export * from './sentences/acts.ts'
export * from './sentences/catalogue.ts'
export * from './sentences/causes.ts'
export * from './sentences/fields.ts'
export * from './sentences/saleKinds.ts'
export * from './sentences/findings.ts'
export * from './sentences/findingsPage.ts'
export * from './sheets/choices.ts'
export * from './sheets/columns.ts'
export * from './sheets/mapping.ts'
export * from './sheets/sheets.ts'
export * from './sheets/systemSheets.ts'
