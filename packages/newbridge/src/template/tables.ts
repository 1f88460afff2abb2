/** What stands in a column: text that has to be there; text that is null where nothing stands, or empty text (words); yes or no; numbers between spaces. */
export type As = 'text' | 'maybe' | 'words' | 'yes-no' | 'numbers'

/** A column is called as the field of the contract that it fills, `address.city` for a field within another. */
export interface Table {
  readonly file: string
  readonly columns: Readonly<Record<string, As>>
  /** Fields within which everything is empty where there is nothing of the kind. */
  readonly nullable?: readonly string[]
  /** Lists within an object, each in a table of its own whose first column is the object's id. */
  readonly lists?: Readonly<Record<string, Table & { readonly nullWhenEmpty?: boolean }>>
  /** A table whose rows belong together by a column: one entry for each value of it. */
  readonly together?: { readonly by: string; readonly list: string; readonly of: readonly string[] }
}

const address = (field: string): Record<string, As> => ({
  [`${field}.country`]: 'maybe',
  [`${field}.region`]: 'maybe',
  [`${field}.city`]: 'maybe',
  [`${field}.postalCode`]: 'maybe',
})

/** The taxes of a document, or of what is kept of one: a row a component. */
const TAXES: Omit<Table, 'file'> = {
  columns: {
    entry: 'text',
    taxRateId: 'text',
    base: 'text',
    tax: 'text',
    'component.agencyId': 'maybe',
    'component.percent': 'maybe',
    'component.tax': 'maybe',
  },
  nullable: ['component'],
  together: { by: 'entry', list: 'components', of: ['taxRateId', 'base', 'tax'] },
}

/** Every resource that Axion reads, each as a file. Rows of a file are found by its column `id`. */
export const TABLES: Readonly<Record<string, Table>> = {
  agencies: {
    file: 'agencies',
    columns: { code: 'maybe', name: 'text', liabilityAccountId: 'maybe' },
  },
  'tax-rates': {
    file: 'tax-rates',
    columns: { code: 'maybe', name: 'text', percent: 'text', active: 'yes-no' },
    lists: {
      components: {
        file: 'tax-rate-components',
        columns: {
          agencyId: 'text',
          name: 'text',
          percent: 'text',
          perUnit: 'maybe',
          onTopOf: 'numbers',
          from: 'maybe',
          to: 'maybe',
        },
        nullWhenEmpty: true,
      },
    },
  },
  accounts: { file: 'accounts', columns: { number: 'text', name: 'text', type: 'text' } },
  items: {
    file: 'items',
    columns: { code: 'text', name: 'text', kind: 'text', taxable: 'yes-no', itemTaxCode: 'maybe' },
  },
  parties: {
    file: 'parties',
    columns: {
      name: 'text',
      'exemption.reason': 'maybe',
      'exemption.certificate': 'maybe',
      'exemption.from': 'maybe',
      'exemption.to': 'maybe',
      ...address('address'),
    },
    nullable: ['exemption', 'address'],
  },
  'item-tax-codes': { file: 'item-tax-codes', columns: { code: 'text', name: 'text' } },
  'payment-methods': {
    file: 'payment-methods',
    columns: { code: 'maybe', name: 'text', kind: 'text', maskedNumber: 'maybe', active: 'yes-no' },
  },
  locations: {
    file: 'locations',
    columns: { code: 'maybe', name: 'text', timeZone: 'text', cutOff: 'maybe', ...address('address') },
  },
  dimensions: {
    file: 'dimensions',
    columns: { dimension: 'text', code: 'text', name: 'text', active: 'yes-no' },
  },
  documents: {
    file: 'documents',
    columns: {
      number: 'text',
      kind: 'text',
      status: 'text',
      documentDate: 'text',
      supplyDate: 'text',
      paymentDate: 'maybe',
      currency: 'text',
      exchangeRate: 'maybe',
      pricesIncludeTax: 'yes-no',
      creditsDocumentId: 'maybe',
      'party.id': 'text',
      'party.name': 'text',
      ...address('shipTo'),
      ...address('shipFrom'),
      discount: 'text',
      reimbursed: 'text',
      total: 'text',
      soldAt: 'maybe',
      locationId: 'maybe',
      channel: 'maybe',
      marketplace: 'maybe',
      enteredBy: 'maybe',
      webAddress: 'maybe',
    },
    nullable: ['shipFrom'],
    lists: {
      lines: {
        file: 'document-lines',
        columns: {
          id: 'text',
          kind: 'text',
          itemCode: 'maybe',
          description: 'words',
          quantity: 'text',
          unitPrice: 'text',
          discount: 'text',
          amount: 'text',
          taxRateId: 'maybe',
          creditsLineId: 'maybe',
        },
      },
      taxes: { file: 'document-taxes', ...TAXES },
      tenders: { file: 'document-tenders', columns: { paymentMethodId: 'text', amount: 'text' } },
    },
  },
  'journal-entries': {
    file: 'journal-entries',
    columns: {
      number: 'text',
      bookingId: 'maybe',
      externalId: 'maybe',
      bookingRevision: 'maybe',
      postingDate: 'text',
      currency: 'text',
      baseCurrency: 'text',
      memo: 'words',
      voided: 'yes-no',
      changedBy: 'words',
      changedAt: 'text',
      webAddress: 'maybe',
    },
    lists: {
      lines: {
        file: 'journal-lines',
        columns: {
          accountId: 'text',
          description: 'words',
          debit: 'text',
          credit: 'text',
          agencyId: 'maybe',
          taxRateId: 'maybe',
          base: 'maybe',
          baseDebit: 'maybe',
          baseCredit: 'maybe',
        },
      },
    },
  },
  settlements: {
    file: 'settlements',
    columns: {
      number: 'text',
      kind: 'text',
      at: 'text',
      paymentMethodId: 'maybe',
      currency: 'text',
      amount: 'text',
      fee: 'text',
      documentNumber: 'maybe',
      payoutId: 'maybe',
    },
  },
  'bank-lines': {
    file: 'bank-lines',
    columns: {
      number: 'text',
      account: 'text',
      bookedOn: 'text',
      currency: 'text',
      amount: 'text',
      text: 'words',
      counterparty: 'maybe',
    },
  },
  committed: {
    file: 'committed',
    columns: {
      number: 'text',
      kind: 'text',
      documentId: 'maybe',
      status: 'text',
      documentDate: 'text',
      currency: 'text',
      exchangeRate: 'maybe',
      webAddress: 'maybe',
    },
    lists: { taxes: { file: 'committed-taxes', ...TAXES } },
  },
}
