import { createHash } from 'node:crypto'
import type { AttachedFile } from '@axion/contract'
import { fileTypeFromBuffer } from 'file-type'
import { groupBy } from '@axion/core'
import { audit } from '../../audit/audit.ts'
import type { Books } from '../../database/connection.ts'
import type { Columns } from '../../database/row.ts'
import { Problem } from '../../faults/problem.ts'

export const MOST_BYTES = 10 * 1024 * 1024
/** What a file may come as, and the ending it goes out under: told by the content, whatever the name says. */
const ENDINGS: ReadonlyMap<string, string> = new Map([
  ['application/pdf', 'pdf'],
  ['image/png', 'png'],
  ['image/jpeg', 'jpg'],
])

export type StoredFile = Columns<
  'attached_file',
  'file_id' | 'about' | 'object' | 'name' | 'type' | 'size' | 'content'
>

/** What a file is kept beside: a certificate by its code, what was read of an agency or a place by its own. */
export interface Proven {
  readonly about: 'certificate' | 'check'
  readonly object: string
}

/** The files beside each of these, the oldest first. */
export async function filesOf(
  { trx, entityId }: Books,
  about: Proven['about'],
  objects: readonly string[],
): Promise<ReadonlyMap<string, readonly AttachedFile[]>> {
  const rows = await trx('attached_file')
    .where({ entity_id: entityId, about })
    .whereNull('removed_at')
    .whereRaw('object = any(?)', [[...objects]])
    .orderBy('at')
    .select('file_id', 'object', 'name', 'size', 'person', 'at')
  const files = rows.map(({ object, file_id: id, name, size, person, at }) => ({
    object,
    file: { id, name, size, person, at: at.toISOString() },
  }))
  return new Map(
    [...groupBy(files, ({ object }) => object)].map(([object, of]) => [object, of.map(({ file }) => file)]),
  )
}

/** What a request brought as a file; empty where it brought something else. */
export function contentOf(body: unknown): Buffer {
  return Buffer.isBuffer(body) ? body : Buffer.alloc(0)
}

/** @throws AXION_FILE_UNREADABLE where it is no PDF, PNG or JPEG, or empty, or too large */
export async function keepFile(
  { trx, entityId }: Books,
  { about, object }: Proven,
  { name, content }: { readonly name: string; readonly content: Buffer },
  person: string,
): Promise<string> {
  const refuse = (problem: string): Problem => new Problem('AXION_FILE_UNREADABLE', { file: name, problem })
  if (content.length === 0) throw refuse('it is empty')
  if (content.length > MOST_BYTES) throw refuse(`it is larger than ${MOST_BYTES / 1024 / 1024} MB`)
  const type = (await fileTypeFromBuffer(content))?.mime
  if (type === undefined || !ENDINGS.has(type)) throw refuse('it is no PDF, PNG or JPEG')
  const [row] = await trx('attached_file')
    .insert({
      entity_id: entityId,
      about,
      object,
      name: plainName(name),
      type,
      size: content.length,
      digest: createHash('sha256').update(content).digest('hex'),
      content,
      person,
    })
    .returning('file_id')
  await audit(trx, 'attached', `${about} ${object}`, { after: { file: name, bytes: content.length } })
  return row?.file_id ?? ''
}

/** It is not handed out any more. */
export async function removeFile(books: Books, fileId: string, person: string): Promise<void> {
  const { trx, entityId } = books
  const file = await readFile(books, fileId)
  await trx('attached_file')
    .where({ entity_id: entityId, file_id: file.file_id })
    .update({ removed_at: trx.fn.now(), removed_by: person })
  await audit(trx, 'detached', `${file.about} ${file.object}`, { before: { file: file.name } })
}

export async function readFile({ trx, entityId }: Books, fileId: string): Promise<StoredFile> {
  const file = await trx('attached_file')
    .where({ entity_id: entityId, file_id: fileId })
    .whereNull('removed_at')
    .first()
  if (!file) throw new Problem('AXION_NOT_FOUND', { what: 'such file' })
  return { ...file, name: endedBy(file.name, ENDINGS.get(file.type) ?? 'bin') }
}

/** A name with the ending of what is in it: a program that it is saved for goes by that. */
function endedBy(name: string, ending: string): string {
  const [, stem = name, own = ''] = /^(.+)\.([^.]+)$/.exec(name) ?? []
  return own.toLowerCase() === ending || (ending === 'jpg' && own.toLowerCase() === 'jpeg')
    ? name
    : `${stem}.${ending}`
}

/** A name without folders, control characters and quotes: it goes into a header when the file is handed out. */
function plainName(name: string): string {
  const bare = (name.split(/[\\/]/).at(-1) ?? '').replace(/[^\p{L}\p{N} ._()-]/gu, '_').trim()
  return bare === '' ? 'file' : bare.slice(0, 120)
}
