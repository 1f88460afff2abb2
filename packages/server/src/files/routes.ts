import {
  date,
  About,
  BASELINE_SHEET_KEYS,
  BASELINE_SHEETS,
  currency,
  fileResourcesOf,
  RESOURCES_OF,
  role,
  Settings,
  SHEET_RESOURCES,
  SYSTEM_ROLES,
  SYSTEM_SHEETS,
  ALSO_OF,
  timeZone,
  writeRows,
  type FilesView,
  type ImportView,
  type Resource,
  type SheetResource,
} from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { audit } from '../audit/audit.ts'
import { readBaseline } from '../baseline/read.ts'
import { seal } from '../bridges/secrets.ts'
import { changing, inEntity, json, type Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { startRun } from '../jobs/runs.ts'
import { sendTables } from '../lists/sent.ts'
import type { App, Services } from '../services/services.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { connectedSystems, FILES, isFiles } from '../setUp/held.ts'
import { baselineRows, heldOf } from './changes.ts'
import { BASELINE } from './importRows.ts'
import { type ImportRow, sheetTitles } from './imports.ts'

const MOST_BYTES = 64 * 1024 * 1024
const SHOWN = 100
const importParams = monthParams.extend({ import: z.uuid() })
const Mapping = z.record(z.string().max(80), z.int().min(0).max(1000).nullable())

/** Set-up in and out as spreadsheets: the baseline's, and that of systems that have no bridge. */
export function fileRoutes(app: App, services: Services): void {
  const { database, queue, settings } = services
  app.addContentTypeParser(
    'application/octet-stream',
    { parseAs: 'buffer', bodyLimit: MOST_BYTES },
    (_request, body, done) => done(null, body),
  )

  app.put(
    '/api/entities/:entity/systems/:system/files',
    {
      config: { role: 'administrator' },
      schema: {
        params: z.object({ entity: z.string(), system: z.string().regex(/^[a-z0-9-]{1,40}$/) }),
        body: z.object({
          role: role.exclude(['bank']),
          name: z.string().min(1).max(100),
          company: z.string().min(1).max(200),
          baseCurrency: currency,
          timeZone,
          defaultItemTaxCode: z.string().max(60).nullable().default(null),
        }),
      },
    },
    (request) => {
      const entity = requireRole(request)
      const { system } = request.params
      const { name, company, baseCurrency, defaultItemTaxCode } = request.body
      const offered: readonly Resource[] = [...RESOURCES_OF[request.body.role], ...ALSO_OF[request.body.role]]
      const about: About = {
        contract: '1',
        role: request.body.role,
        product: 'Spreadsheets',
        company: { id: system, name: company },
        webAddress: null,
        resources: fileResourcesOf(request.body.role, offered),
        takes: [],
        creates: [],
        taxComputation: request.body.role === 'ledger' ? 'as-given' : null,
        idempotency: null,
        findsByExternalId: false,
        voids: false,
        longestLateCommitSeconds: null,
      }
      const held: Settings = {
        baseCurrency,
        currencies: [baseCurrency],
        timeZone: request.body.timeZone,
        taxEnabled: true,
        computesTax: false,
        keepsDocumentNumbers: true,
        pairsCreditsItself: false,
        usesAccountNumbers: true,
        lockedThrough: null,
        defaultItemTaxCode,
        newPartiesTaxable: null,
        keepsInventory: null,
        rounding: null,
      }
      return changing(database, entity.id, async (trx) => {
        const there = (await trx('system')
          .where({ entity_id: entity.id, system_id: system })
          .first('address')) as { address: string } | undefined
        if (there && there.address !== FILES)
          throw new Problem('AXION_ALREADY_EXISTS', { what: `A system ${system} with a bridge` })
        await trx('system')
          .insert({
            entity_id: entity.id,
            system_id: system,
            role: about.role,
            name,
            address: FILES,
            token_sealed: seal('', settings.AXION_SECRET_KEY),
            about: json(about),
            settings: json(held),
            disconnected_at: null,
          })
          .onConflict(['entity_id', 'system_id'])
          .merge()
        await audit(trx, 'connected', name, null, {
          role: about.role,
          by: 'files',
          company,
        })
        await noteSetUp(trx, entity.id)
        return { system, resources: about.resources }
      })
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/files',
    { config: { role: 'viewer' }, schema: { params: monthParams } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (trx) => filesView(trx, entity.id))
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/files/:target/:sheet',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams.extend({ target: z.string().max(60), sheet: z.string().max(60) }),
        querystring: z.object({ format: z.enum(['csv', 'xlsx']).default('csv') }),
      },
    },
    async (request, reply) => {
      const entity = requireRole(request)
      const { target, sheet } = request.params
      const tables = await inEntity(database, entity.id, (trx) => tablesOut(trx, entity.id, target, sheet))
      if (tables.length === 0) throw new Problem('AXION_NOT_FOUND', { what: 'such sheet' })
      const name = `${entity.id}-${target}-${sheet}`
      return sendTables(database, reply, entity.id, request.query.format, name, tables)
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/files/imports',
    {
      config: { role: 'preparer' },
      bodyLimit: MOST_BYTES,
      schema: {
        params: monthParams,
        querystring: z.object({
          target: z.string().max(60),
          sheet: z.string().max(60).optional(),
          name: z.string().min(1).max(200),
        }),
      },
    },
    (request) => {
      const entity = requireRole(request)
      const { target, sheet = null, name } = request.query
      const content = request.body as Buffer | undefined
      if (!Buffer.isBuffer(content) || content.length === 0)
        throw new Problem('AXION_FILE_UNREADABLE', { file: name, problem: 'nothing came' })
      return changing(database, entity.id, async (trx) => {
        await requireTarget(trx, entity.id, target, sheet)
        const [row] = (await trx('file_import')
          .insert({
            entity_id: entity.id,
            target,
            sheet,
            file_name: name,
            content,
            state: 'opening',
            person: requirePerson(request).name,
          })
          .returning('import_id')) as { import_id: string }[]
        const importId = row?.import_id ?? ''
        return {
          import: importId,
          run: await startRun(
            trx,
            queue,
            entity.id,
            'import',
            { month: request.params.month, importId, phase: 'open' },
            requirePerson(request).name,
          ),
        }
      })
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/files/imports/:import',
    { config: { role: 'viewer' }, schema: { params: importParams } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (trx) => importView(trx, entity.id, request.params.import))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/files/imports/:import/read',
    {
      config: { role: 'preparer' },
      schema: { params: importParams, body: z.object({ mappings: z.record(z.string().max(200), Mapping) }) },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (trx) => {
        await advance(trx, entity.id, request.params.import, ['mapping', 'read'], 'reading')
        return {
          run: await startRun(
            trx,
            queue,
            entity.id,
            'import',
            {
              month: request.params.month,
              importId: request.params.import,
              phase: 'read',
              mappings: request.body.mappings,
            },
            requirePerson(request).name,
          ),
        }
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/files/imports/:import/apply',
    {
      config: { role: 'preparer' },
      schema: {
        params: importParams,
        body: z.object({
          mode: z.enum(['whole', 'part']),
          goodOnly: z.boolean(),
          changesFrom: date.nullable().optional(),
        }),
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (trx) => {
        const row = await advance(trx, entity.id, request.params.import, ['read'], 'applying')
        if (row.bad > 0 && !request.body.goodOnly)
          throw new Problem('AXION_FILE_BAD_ROWS', { rows: String(row.bad) })
        const { month } = request.params
        const { earlier = 0 } = row.report[request.body.mode] ?? {}
        if (earlier > 0 && request.body.changesFrom === undefined)
          throw new Problem('AXION_FROM_WHEN', { rows: String(earlier), month })
        return {
          run: await startRun(
            trx,
            queue,
            entity.id,
            'import',
            {
              month,
              importId: request.params.import,
              phase: 'apply',
              ...request.body,
            },
            requirePerson(request).name,
            row.total,
          ),
        }
      })
    },
  )

  app.delete(
    '/api/entities/:entity/months/:month/files/imports/:import',
    { config: { role: 'preparer' }, schema: { params: importParams } },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (trx) => {
        await advance(trx, entity.id, request.params.import, ['mapping', 'read'], 'cancelled')
        await trx('file_import_row')
          .where({ entity_id: entity.id, import_id: request.params.import })
          .delete()
        return { discarded: true }
      })
    },
  )
}

async function advance(
  trx: Transaction,
  entityId: string,
  importId: string,
  from: readonly ImportRow['state'][],
  to: ImportRow['state'],
): Promise<ImportRow> {
  const row = (await trx('file_import')
    .where({ entity_id: entityId, import_id: importId })
    .forUpdate()
    .first()) as ImportRow | undefined
  if (!row) throw new Problem('AXION_NOT_FOUND', { what: 'such import' })
  if (!from.includes(row.state)) throw new Problem('AXION_STALE', { what: `The import of ${row.file_name}` })
  await trx('file_import').where({ entity_id: entityId, import_id: importId }).update({ state: to })
  return row
}

async function requireTarget(
  trx: Transaction,
  entityId: string,
  target: string,
  sheet: string | null,
): Promise<void> {
  const system =
    target === BASELINE
      ? null
      : (await connectedSystems(trx, entityId)).find((one) => one.system_id === target && isFiles(one))
  const known =
    target === BASELINE
      ? sheet === null || sheetTitles(target).some((one) => one.key === sheet)
      : system && sheet !== null && system.about.resources.includes(sheet)
  if (!known) throw new Problem('AXION_NOT_FOUND', { what: 'such sheet to bring a file into' })
}

async function filesView(trx: Transaction, entityId: string): Promise<FilesView> {
  const baseline = await readBaseline(trx, entityId)
  const systems = (await connectedSystems(trx, entityId)).sort(
    (a, b) => SYSTEM_ROLES.indexOf(a.role) - SYSTEM_ROLES.indexOf(b.role),
  )
  const counts = (await trx('held_object')
    .where({ entity_id: entityId, removed: false })
    .groupBy('system_id', 'resource')
    .select('system_id', 'resource', trx.raw('count(*)::int as n'))) as {
    system_id: string
    resource: string
    n: number
  }[]
  const imports = (await trx('file_import')
    .where({ entity_id: entityId })
    .orderBy('at', 'desc')
    .limit(8)
    .select(
      'import_id',
      'target',
      'sheet',
      'file_name',
      'state',
      'total',
      'bad',
      'person',
      'at',
    )) as ImportRow[]
  return {
    targets: [
      {
        id: BASELINE,
        name: 'The baseline',
        takes: true,
        sheets: BASELINE_SHEET_KEYS.map((key) => ({
          key,
          title: BASELINE_SHEETS[key].title,
          rows: baseline[key].length,
        })),
      },
      ...systems
        .map((system) => ({
          id: system.system_id,
          name: system.name,
          takes: isFiles(system),
          sheets: SHEET_RESOURCES.filter((key) => system.about.resources.includes(key)).map((key) => ({
            key,
            title: SYSTEM_SHEETS[key].title,
            rows: counts.find((c) => c.system_id === system.system_id && c.resource === key)?.n ?? 0,
          })),
        }))
        .filter((target) => target.sheets.length > 0),
    ],
    imports: imports.map((row) => ({
      id: row.import_id,
      target: row.target,
      sheet: row.sheet,
      fileName: row.file_name,
      state: row.state,
      total: row.total,
      bad: row.bad,
      person: row.person,
      at: row.at.toISOString(),
    })),
  }
}

async function importView(trx: Transaction, entityId: string, importId: string): Promise<ImportView> {
  const here = { entity_id: entityId, import_id: importId }
  const row = (await trx('file_import').where(here).first()) as ImportRow | undefined
  if (!row) throw new Problem('AXION_NOT_FOUND', { what: 'such import' })
  const bad = (await trx('file_import_row')
    .where(here)
    .whereNotNull('problem')
    .orderBy(['sheet', 'line'])
    .limit(SHOWN)
    .select('sheet', 'line', 'problem', 'cells')) as {
    sheet: string
    line: number
    problem: string
    cells: string[]
  }[]
  const samples: { sheet: string; rows: { line: number; cells: string[] }[] }[] = []
  for (const one of row.sheets)
    samples.push({
      sheet: one.name,
      rows: (await trx('file_import_row')
        .where({ ...here, sheet: one.name })
        .orderBy('line')
        .limit(5)
        .select('line', 'cells')) as { line: number; cells: string[] }[],
    })
  return {
    id: row.import_id,
    target: row.target,
    fileName: row.file_name,
    state: row.state,
    total: row.total,
    bad: row.bad,
    badRows: bad,
    changes: { whole: row.report.whole ?? null, part: row.report.part ?? null },
    sheets: row.sheets.map((one) => ({
      name: one.name,
      sheet: one.sheet,
      title: sheetTitles(row.target).find((each) => each.key === one.sheet)?.title ?? one.name,
      header: one.header,
      rows: one.rows,
      mapping: one.mapping,
      remembered: one.remembered,
      columns: (one.sheet === null
        ? []
        : (row.target === BASELINE
            ? BASELINE_SHEETS[one.sheet as keyof typeof BASELINE_SHEETS]
            : SYSTEM_SHEETS[one.sheet as SheetResource]
          ).columns
      ).map(({ path, title, needed }) => ({ path, title, needed })),
      sample: samples.find((each) => each.sheet === one.name)?.rows ?? [],
    })),
  }
}

interface TableOut {
  readonly name: string
  readonly header: readonly string[]
  readonly rows: readonly (readonly string[])[]
}

/** What a target holds under a sheet, or under all of them, in the shape that comes in again. */
async function tablesOut(
  trx: Transaction,
  entityId: string,
  target: string,
  wanted: string,
): Promise<TableOut[]> {
  if (target === BASELINE) {
    const baseline = await readBaseline(trx, entityId)
    return BASELINE_SHEET_KEYS.filter((key) => wanted === 'all' || key === wanted).map((key) => {
      const sheet = BASELINE_SHEETS[key]
      return {
        name: sheet.title,
        header: sheet.columns.map((c) => c.title),
        rows: baselineRows(baseline, key).flatMap((row) => writeRows(sheet, null, row.value)),
      }
    })
  }
  const system = (await connectedSystems(trx, entityId)).find((one) => one.system_id === target)
  const keys = SHEET_RESOURCES.filter(
    (key) => system?.about.resources.includes(key) && (wanted === 'all' || key === wanted),
  )
  const tables: TableOut[] = []
  for (const key of keys) {
    const sheet = SYSTEM_SHEETS[key]
    tables.push({
      name: sheet.title,
      header: sheet.columns.map((c) => c.title),
      rows: (await heldOf(trx, entityId, target, key)).flatMap((row) => writeRows(sheet, row.id, row.value)),
    })
  }
  return tables
}
