import { z } from 'zod'
import { FieldChange } from './common.ts'
import { Mapping } from './ofCore.ts'

/** What taking a file's rows would change. */
export const ImportChanges = z.object({
  added: z.number(),
  changed: z.number(),
  removed: z.number(),
  same: z.number(),
  /** Of what changes or goes, by more than its name: what holds in months before the one that is worked, which were proved. */
  earlier: z.number(),
  samples: z
    .array(
      z.object({
        kind: z.enum(['added', 'changed', 'removed']),
        label: z.string(),
        fields: z.array(FieldChange).readonly(),
      }),
    )
    .readonly(),
})
export type ImportChanges = z.infer<typeof ImportChanges>

export const ImportState = z.enum([
  'opening',
  'mapping',
  'reading',
  'read',
  'applying',
  'applied',
  'cancelled',
  'failed',
])
export type ImportState = z.infer<typeof ImportState>

/** What can go out as a spreadsheet, and what can come in as one. */
export const FilesView = z.object({
  targets: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        takes: z.boolean(),
        sheets: z
          .array(
            z.object({
              key: z.string(),
              title: z.string(),
              rows: z.number(),
            }),
          )
          .readonly(),
      }),
    )
    .readonly(),
  imports: z
    .array(
      z.object({
        id: z.string(),
        target: z.string(),
        sheet: z.string().nullable(),
        fileName: z.string(),
        state: ImportState,
        total: z.number(),
        bad: z.number(),
        person: z.string(),
        at: z.string(),
      }),
    )
    .readonly(),
})
export type FilesView = z.infer<typeof FilesView>

/** A file on its way in. */
export const ImportView = z.object({
  id: z.string(),
  target: z.string(),
  fileName: z.string(),
  state: ImportState,
  total: z.number(),
  bad: z.number(),
  /** The first of them, by line. */
  badRows: z
    .array(
      z.object({
        sheet: z.string(),
        line: z.number(),
        problem: z.string(),
        cells: z.array(z.string()).readonly(),
      }),
    )
    .readonly(),
  /** Where the file holds all objects, and where it holds some of them; null before its rows are read. */
  changes: z.object({
    whole: ImportChanges.nullable(),
    part: ImportChanges.nullable(),
  }),
  sheets: z
    .array(
      z.object({
        name: z.string(),
        sheet: z.string().nullable(),
        title: z.string(),
        header: z.array(z.string()).readonly(),
        rows: z.number(),
        mapping: Mapping,
        /** Whether it was mapped so before, under the same header. */
        remembered: z.boolean(),
        columns: z
          .array(
            z.object({
              path: z.string(),
              title: z.string(),
              needed: z.boolean(),
            }),
          )
          .readonly(),
        sample: z
          .array(
            z.object({
              line: z.number(),
              cells: z.array(z.string()).readonly(),
            }),
          )
          .readonly(),
      }),
    )
    .readonly(),
})
export type ImportView = z.infer<typeof ImportView>
