import { LEVELS } from '@axion/core'
import { z } from 'zod'
import { date, lastDate, percent } from '../bridge/primitives.ts'
import { BaselineImport } from './baseline.ts'

const code = z.string().trim().min(1, 'is needed').max(60).regex(/^\S+$/, 'has spaces')
const name = z.string().trim().min(1, 'is needed').max(200)
const { covers } = BaselineImport.shape.jurisdictions.element.shape
const { level, unit, tie } = BaselineImport.shape.roundings.element.shape
const { number, basis, frequency } = BaselineImport.shape.registrations.element.shape

/** A place that the baseline does not have yet, with its percent, whose tax it is, and where that is owed. */
export const NewPlace = z.object({
  code,
  name,
  level: z.enum(LEVELS),
  parent: code.nullable(),
  covers,
  percent,
  /** Jurisdictions of the rate whose tax is taxed too. */
  onTopOf: z.array(code).default([]),
  agency: z.union([
    z.object({ code, is: z.literal('known') }),
    z.object({
      code,
      is: z.literal('new'),
      name,
      account: z.string().trim().min(1, 'is needed').max(40),
      registration: z.object({ number, basis, frequency }).nullable(),
    }),
  ]),
  /** Of a place under none: how its region rounds. */
  rounding: z.object({ level, unit, tie }).nullable(),
})
export type NewPlace = z.infer<typeof NewPlace>

/** A combined rate, entered whole: the places that are charged together, one of which may be new, and from when. */
export const NewRate = z
  .object({
    code,
    name,
    jurisdictions: z.array(code),
    place: NewPlace.nullable(),
    from: date,
    to: lastDate.nullable(),
  })
  .refine((rate) => rate.jurisdictions.length > 0 || rate.place !== null, {
    error: 'a rate is of at least one place',
    path: ['jurisdictions'],
  })
  .refine((rate) => rate.to === null || rate.to >= rate.from, {
    error: 'it ends before it begins',
    path: ['to'],
  })
export type NewRate = z.infer<typeof NewRate>

/** What a rate can be made of: places with their percents today, agencies with their accounts, and accounts that tax may be owed on. */
export const NewRateGround = z.object({
  places: z
    .array(
      z.object({
        code: z.string(),
        name: z.string(),
        level: z.string(),
        parent: z.string().nullable(),
        percent: z.string().nullable(),
        country: z.string(),
        region: z.string().nullable(),
        rounds: z.boolean(),
      }),
    )
    .readonly(),
  agencies: z
    .array(
      z.object({
        code: z.string(),
        name: z.string(),
        account: z.string().nullable(),
        registered: z.string().nullable(),
      }),
    )
    .readonly(),
  accounts: z
    .array(
      z.object({
        number: z.string(),
        name: z.string(),
      }),
    )
    .readonly(),
})
export type NewRateGround = z.infer<typeof NewRateGround>
