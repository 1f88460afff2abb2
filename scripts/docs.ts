import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { findingsPage } from '../packages/contract/src/sentences/findingsPage.ts'
import { ROOT } from './lib/home.mjs'

/** Writes the pages of docs that are made from code. */
writeFileSync(join(ROOT, 'docs/findings.md'), findingsPage())
