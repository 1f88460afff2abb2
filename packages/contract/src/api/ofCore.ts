import {
  EVIDENCE,
  NEW_ITEMS,
  POSTING_KINDS,
  type FaultCode as CoreFaultCode,
  type NewItems as CoreNewItems,
} from '@axion/core'
import { z } from 'zod'
import { SYSTEM_ROLES } from '../bridge/kinds.ts'
import type { Code as SentenceCode } from '../sentences/catalogue.ts'
import { FINDING_CODES, SEVERITIES } from '../sentences/findings.ts'

/** Core's and the sentences' own words as answers carry them. */
export const Facts = z.record(z.string(), z.string()).readonly()
export type Facts = z.infer<typeof Facts>
/** A code of the catalogue of sentences; which there are is the server's. */
export const Code = z.string() as unknown as z.ZodType<SentenceCode, SentenceCode>
export type Code = SentenceCode
export const FaultCode = z.string() as unknown as z.ZodType<CoreFaultCode, CoreFaultCode>
export type FaultCode = CoreFaultCode
export const FindingCode = z.enum(FINDING_CODES)
export type FindingCode = z.infer<typeof FindingCode>
export const Severity = z.enum(SEVERITIES)
export type Severity = z.infer<typeof Severity>
export const NewItems = z.enum(NEW_ITEMS)
export type NewItems = CoreNewItems
export const PostingKind = z.enum(POSTING_KINDS)
export type PostingKind = z.infer<typeof PostingKind>
export const CrosswalkEvidence = z.enum(EVIDENCE)
export type CrosswalkEvidence = z.infer<typeof CrosswalkEvidence>
export const NamePiece = z.object({ text: z.string(), same: z.boolean() })
export type NamePiece = z.infer<typeof NamePiece>
export const SystemRole = z.enum(SYSTEM_ROLES)
export type SystemRole = z.infer<typeof SystemRole>
export const Mapping = z.record(z.string(), z.number().nullable()).readonly()
export type Mapping = z.infer<typeof Mapping>
