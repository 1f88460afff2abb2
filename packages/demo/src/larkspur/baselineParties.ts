import type { BaselineInput } from '@axion/contract'
import { CLAIMANTS, FOLDGATE } from './goods.ts'

/** Who claims to be exempt, and who stands for many. */
export function parties(): NonNullable<BaselineInput['parties']> {
  return [
    ...CLAIMANTS.map(({ id, name, claims }) => ({
      code: id,
      name,
      claims,
      catchAll: false,
      address: null,
    })),
    { code: 'cus_counter', name: 'Counter sale', claims: null, catchAll: true, address: null },
    { code: 'cus_tollgate', name: 'Tollgate Provisions', claims: 'resale', catchAll: false, address: null },
    ...FOLDGATE.branches.map((code) => ({
      code,
      name: FOLDGATE.name,
      claims: FOLDGATE.claims,
      catchAll: false,
      address: null,
    })),
  ]
}

/** What proves an exemption, where anything does. */
export function certificates(): NonNullable<BaselineInput['certificates']> {
  return [
    ...FOLDGATE.branches.map((party, at) => ({
      code: `crt_${party}`,
      number: `WN-R-4110${at + 1}`,
      party,
      reason: FOLDGATE.claims,
      regions: ['WN'],
      from: '2026-02-01',
      to: null,
    })),
    ...CLAIMANTS.flatMap(({ id, claims, certificate }) =>
      certificate
        ? [
            {
              code: `crt_${id.slice(4)}`,
              number: certificate.number,
              party: id,
              reason: claims,
              regions: [...certificate.regions],
              from: certificate.from,
              to: certificate.to,
            },
          ]
        : [],
    ),
  ]
}
