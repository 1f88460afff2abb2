/** SQL, of a document `d` that its system's scope leaves out: nothing of it is booked or on its way. `b` is its booking, if any. */
export const LEFT_OUT = `(d.not_taken is not null and b.ledger_booking_id is null and coalesce(b.state, '') not in ('waiting', 'sending', 'sent', 'in-doubt', 'booked'))`

/** SQL, of a booking `b`: somebody voided it in the ledger. It is booked anew only where somebody says so. */
export const VOIDED_THERE = `(b.state = 'changed' and b.ledger_booking_id is null and exists (select from ledger_entry v where v.entity_id = b.entity_id and v.external_id = b.external_id and v.voided))`

/** SQL: what became of a document `d` with its booking `b`. */
export const POST_STATE = `case when d.status = 'void' and b.state = 'booked' then 'void-at-source' when d.status = 'draft' and b.state is null then 'draft' when d.status <> 'void' and ${VOIDED_THERE} then 'voided-there' when ${LEFT_OUT} and d.status <> 'void' then d.not_taken else coalesce(b.state, 'not-composed') end`
