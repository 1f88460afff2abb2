import type { About, Settings } from '@axion/contract'
import type { Client } from '../client.ts'
import type { Report } from '../report.ts'
import { atOnceChecks } from './atOnce.ts'
import { correctionChecks, creditChecks, dimensionChecks, unknownChecks } from './content.ts'
import { currencyChecks } from './currencies.ts'
import { postingChecks } from './posting.ts'
import { replacingChecks } from './replacing.ts'
import { taxChecks } from './taxes.ts'
import { trialOf } from './trial.ts'
import { voidingChecks } from './voiding.ts'

/** In their order: what was made before is voided last. */
const CHECKS = [
  postingChecks,
  replacingChecks,
  unknownChecks,
  dimensionChecks,
  creditChecks,
  correctionChecks,
  taxChecks,
  currencyChecks,
  atOnceChecks,
  voidingChecks,
]

/** Posting, repeating, replacing and voiding; each test booking is voided in the end, where the ledger voids. */
export async function bookingChecks(
  report: Report,
  client: Client,
  about: About,
  settings: Settings,
): Promise<void> {
  const trial = await trialOf(report, client, about, settings)
  if (!trial) return report.skip('bookings', 'there is no receivable or no income account to book to')
  for (const check of CHECKS) await check(trial)
}
