import type { Knex } from 'knex'

// Written from the migrated schema, and compared with it, by schema.test.ts (with -u it is written anew).

/** What stands in a column of JSON: read by whoever knows its shape. */
type Json = unknown
/** A row as it is read, and what of it may be left out when it is written. */
type Row<R, Optional extends keyof R = never> = Knex.CompositeTableType<
  R,
  Written<Omit<R, Optional>> & Partial<Written<Pick<R, Optional>>>
>
type Written<R> = { [C in keyof R]: R[C] | (Date extends R[C] ? string : never) | Knex.Raw }

declare module 'knex/types/tables.js' {
  interface Tables {
    account_purpose: Row<
      { account: string; changed_at: Date; changed_by: string; entity_id: string; kinds: readonly string[] },
      'changed_at'
    >
    agency: Row<
      {
        entity_id: string
        name: string
        object_id: string
        recorded: string
        valid: string
        version_id: string
      },
      'recorded' | 'version_id'
    >
    agreed_default: Row<
      {
        entity_id: string
        item_tax_code: string | null
        new_items: 'left-open' | 'taken-in'
        object_id: string
        parties_taxable: boolean | null
        recorded: string
        valid: string
        version_id: string
      },
      'item_tax_code' | 'new_items' | 'parties_taxable' | 'recorded' | 'version_id'
    >
    align_batch: Row<
      {
        action: string
        at: Date
        batch_id: string
        entity_id: string
        person: string
        run_id: string | null
        says: string
        size: number
        steps: Json
        undone_at: Date | null
        undone_by: string | null
      },
      'at' | 'batch_id' | 'run_id' | 'undone_at' | 'undone_by'
    >
    align_built: Row<
      { entity_id: string; facts: string; period: string; set_up: string; stakes: Json | null },
      'stakes'
    >
    align_clock: Row<{ entity_id: string; facts: string; set_up: string }, 'facts' | 'set_up'>
    align_finding: Row<
      {
        code: string
        entity_id: string
        facts: Json
        finding_key: string | null
        kind: string
        left_because: Json | null
        period: string
        place: number
        row_id: string
        severity: string
        system_id: string | null
      },
      'finding_key' | 'left_because' | 'system_id'
    >
    align_left: Row<
      {
        at: Date
        code: string
        entity_id: string
        kind: string
        person: string
        reason: string
        row_id: string
        system_id: string
      },
      'at'
    >
    align_moved: Row<{
      entity_id: string
      kind: string
      object_id: string
      set_up: string
      stood_for: readonly string[]
      system_id: string
    }>
    align_row: Row<
      {
        cells: Json
        clear: number
        detail: string
        documents: number
        entity_id: string
        extra: Json | null
        findings: number
        grp: string
        keys: readonly string[]
        kind: string
        name: string
        period: string
        place: number
        row_id: string
        search: string
        shared: boolean
        stake: string
        total: string
        worst: number
      },
      'extra' | 'shared'
    >
    answered_by: Row<
      { agreed: string | null; entity_id: string; held: string | null; settings: string; systems: string },
      'agreed' | 'held'
    >
    attached_file: Row<
      {
        about: 'certificate' | 'check'
        at: Date
        content: Buffer
        digest: string
        entity_id: string
        file_id: string
        name: string
        object: string
        person: string
        removed_at: Date | null
        removed_by: string | null
        size: number
        type: string
      },
      'at' | 'file_id' | 'removed_at' | 'removed_by'
    >
    audit_entry: Row<
      {
        action: string
        after: Json | null
        at: Date
        before: Json | null
        digest: Buffer
        entity_id: string
        from_address: string | null
        object: string
        person: string
        place: string
      },
      'after' | 'at' | 'before' | 'from_address'
    >
    authority: Row<
      {
        accepted_at: Date
        accepted_by: string
        checked_against: string | null
        checked_at: Date | null
        checked_by: string | null
        checked_on: string | null
        checked_says: string | null
        entity_id: string
        kind: string
        object: string
        says: string
        seen_in: readonly string[]
      },
      'accepted_at' | 'checked_against' | 'checked_at' | 'checked_by' | 'checked_on' | 'checked_says'
    >
    booking: Row<
      {
        accepted_revision: string | null
        action: string
        attempts: number
        currency: string
        document_id: string
        entity_id: string
        external_id: string
        findings: Json
        journal: Json | null
        kind: string
        lease_token: string | null
        lease_until: Date | null
        ledger_booking_id: string | null
        ledger_revision: string | null
        named: string
        not_before: Date | null
        number: string
        period: string
        reason_code: string | null
        reason_facts: Json | null
        request: Json | null
        revision: number
        run_id: string | null
        source_revision: string
        state:
          | 'blocked'
          | 'rehearsed'
          | 'waiting'
          | 'sending'
          | 'sent'
          | 'booked'
          | 'failed'
          | 'in-doubt'
          | 'changed'
          | 'withdrawn'
        stem: string
        system_id: string
        tax: string
        total: string
        uncertain_since: Date | null
        updated_at: Date
      },
      | 'accepted_revision'
      | 'action'
      | 'attempts'
      | 'findings'
      | 'journal'
      | 'kind'
      | 'lease_token'
      | 'lease_until'
      | 'ledger_booking_id'
      | 'ledger_revision'
      | 'named'
      | 'not_before'
      | 'reason_code'
      | 'reason_facts'
      | 'request'
      | 'revision'
      | 'run_id'
      | 'stem'
      | 'uncertain_since'
      | 'updated_at'
    >
    certificate: Row<
      {
        entity_id: string
        number: string
        object_id: string
        party: string
        reason: string
        recorded: string
        regions: readonly string[]
        valid: string
        version_id: string
      },
      'recorded' | 'version_id'
    >
    chain_head: Row<{ chain: string; digest: Buffer; place: string }>
    code_rule: Row<
      {
        cap: string | null
        currency: string | null
        entity_id: string
        item_tax_code: string
        jurisdiction: string
        object_id: string
        per_unit: string | null
        percent: string | null
        recorded: string
        recoverable: string | null
        threshold: string | null
        threshold_taxes: string | null
        treatment: string
        valid: string
        version_id: string
      },
      | 'cap'
      | 'currency'
      | 'per_unit'
      | 'percent'
      | 'recorded'
      | 'recoverable'
      | 'threshold'
      | 'threshold_taxes'
      | 'version_id'
    >
    collecting: Row<
      {
        answer: 'we' | 'another' | 'nobody'
        entity_id: string
        jurisdiction: string
        object_id: string
        recorded: string
        valid: string
        version_id: string
        why: string | null
      },
      'recorded' | 'version_id' | 'why'
    >
    combined_rate: Row<
      {
        entity_id: string
        item_tax_code: string | null
        jurisdictions: readonly string[]
        name: string
        object_id: string
        recorded: string
        valid: string
        version_id: string
      },
      'item_tax_code' | 'recorded' | 'version_id'
    >
    committed_document: Row<
      {
        committed_id: string
        currency: string
        document_date: string
        entity_id: string
        kind: string
        number: string
        period: string
        removed: boolean
        revision: string
        source_document: string | null
        status: string
        system_id: string
        value: Json
      },
      'source_document'
    >
    computes_for: Row<
      { entity_id: string; said_at: Date; said_by: string; service_id: string; source_id: string },
      'said_at'
    >
    copied: Row<
      { at: Date; entity_id: string; follows: boolean; person: string; source: string; things: Json },
      'at'
    >
    determination: Row<
      {
        document_id: string
        entity_id: string
        expected_at_stated: string | null
        stated_signature: string | null
        system_id: string
        unit_id: string
      },
      'expected_at_stated' | 'stated_signature'
    >
    dimension_value: Row<
      {
        code: string
        dimension: string
        entity_id: string
        name: string
        object_id: string
        recorded: string
        valid: string
        version_id: string
      },
      'recorded' | 'version_id'
    >
    document: Row<
      {
        credits_document: string | null
        currency: string
        document_date: string
        document_id: string
        entity_id: string
        kind: string
        named: string
        not_taken: string | null
        number: string
        party: string
        period: string
        posted: boolean
        revision: string
        since: Date
        status: string
        system_id: string
        trading_day: string
        value: Json
      },
      'credits_document' | 'kind' | 'named' | 'not_taken' | 'since'
    >
    entity_home: Row<{ entity_id: string | null; lives_in: string | null }, 'entity_id' | 'lives_in'>
    entity_lock: Row<{ entity_id: string; of: string }>
    entity_number: Row<{ entity_id: string; last: string; of: string }>
    facts_text: Row<
      {
        document_id: string | null
        entity_id: string | null
        named: string | null
        period: string | null
        system_id: string | null
        text: string | null
        unit_id: string | null
      },
      'document_id' | 'entity_id' | 'named' | 'period' | 'system_id' | 'text' | 'unit_id'
    >
    file_import: Row<
      {
        at: Date
        bad: number
        content: Buffer | null
        entity_id: string
        file_name: string
        import_id: string
        mode: string | null
        person: string
        report: Json
        sheet: string | null
        sheets: Json
        state: string
        target: string
        total: number
      },
      'at' | 'bad' | 'content' | 'import_id' | 'mode' | 'report' | 'sheet' | 'sheets' | 'total'
    >
    file_import_row: Row<
      {
        cells: Json
        entity_id: string
        import_id: string
        line: number
        object_id: string | null
        problem: string | null
        sheet: string
        value: Json | null
      },
      'object_id' | 'problem' | 'value'
    >
    file_mapping: Row<
      { at: Date; entity_id: string; header: string; mapping: Json; person: string; sheet: string },
      'at'
    >
    finding: Row<
      {
        code: string
        entity_id: string
        facts: Json
        found_at: Date
        object_id: string
        period: string | null
        resource: string
        sequence: string | null
        system_id: string
        value: Json | null
      },
      'found_at' | 'period' | 'sequence' | 'value'
    >
    first_link: Row<{ digest: string; made_at: Date }, 'made_at'>
    held_change: Row<
      {
        after: Json | null
        before: Json | null
        change_id: string
        entity_id: string
        kind: string
        label: string
        object_id: string
        pull_id: string
        resource: string
        system_id: string
      },
      'after' | 'before' | 'change_id'
    >
    held_object: Row<
      {
        entity_id: string
        object_id: string
        removed: boolean
        resource: string
        revision: string
        since: Date
        system_id: string
        value: Json | null
      },
      'since' | 'value'
    >
    held_record: Row<
      {
        currency: string
        day: string
        entity_id: string
        kind: string
        not_taken: string | null
        number: string
        period: string
        record_id: string
        removed: boolean
        resource: string
        revision: string
        system_id: string
        trading_day: string
        value: Json
      },
      'not_taken'
    >
    home_address: Row<
      {
        address: Json
        entity_id: string
        object_id: string
        recorded: string
        valid: string
        version_id: string
      },
      'recorded' | 'version_id'
    >
    invitation: Row<
      {
        created_at: Date
        created_by: string
        digest: string
        entity_id: string
        expires_at: Date
        invitation_id: string
        name: string
        role: string
        system_id: string
        used_at: Date | null
      },
      'created_at' | 'invitation_id' | 'used_at'
    >
    item: Row<
      {
        entity_id: string
        item_tax_code: string
        name: string
        object_id: string
        recorded: string
        valid: string
        version_id: string
      },
      'recorded' | 'version_id'
    >
    item_tax_code: Row<
      {
        entity_id: string
        name: string
        object_id: string
        recorded: string
        valid: string
        version_id: string
      },
      'recorded' | 'version_id'
    >
    jurisdiction: Row<
      {
        agency: string | null
        covers: Json
        entity_id: string
        level: string
        name: string
        object_id: string
        parent: string | null
        recorded: string
        valid: string
        version_id: string
      },
      'agency' | 'parent' | 'recorded' | 'version_id'
    >
    kept_difference: Row<
      {
        entity_id: string
        figures: string
        kept_at: Date
        kept_by: string
        number: string
        object_id: string
        over: string
        period: string
        reason: string
        reviewed_at: Date | null
        reviewed_by: string | null
        system_id: string
        under: string
        what: 'document' | 'entry'
      },
      'kept_at' | 'reviewed_at' | 'reviewed_by'
    >
    ledger_balance: Row<{
      account: string
      closing: string
      currency: string
      entity_id: string
      opening: string
      period: string
      system_id: string
    }>
    ledger_entry: Row<
      {
        booking_id: string | null
        booking_revision: string | null
        changed_at: Date
        changed_by: string
        currency: string
        entity_id: string
        entry_id: string
        external_id: string | null
        period: string
        posting_date: string
        revision: string
        stem: string | null
        system_id: string
        value: Json
        voided: boolean
      },
      'booking_id' | 'booking_revision' | 'external_id' | 'stem'
    >
    legal_entity: Row<
      {
        base_currency: string
        closed_on: string | null
        country: string
        created_at: Date
        entity_id: string
        lives_in: string | null
        locale: string
        moving_since: Date | null
        name: string
        recorded_last: Date
        restored_at: Date | null
        time_zone: string
        year_begins: number | null
      },
      | 'closed_on'
      | 'created_at'
      | 'lives_in'
      | 'moving_since'
      | 'recorded_last'
      | 'restored_at'
      | 'year_begins'
    >
    line_rule: Row<
      {
        account: string | null
        as_item: string | null
        channel: string | null
        dimension: string | null
        entity_id: string
        item: string | null
        item_tax_code: string | null
        method: string | null
        name: string
        object_id: string
        party: string | null
        place: number
        recorded: string
        region: string | null
        sale_kind: 'own-use' | 'warranty' | 'internal' | null
        stated: 'taxable' | 'not-taxable' | null
        system: string | null
        text: string | null
        valid: string
        version_id: string
      },
      | 'account'
      | 'as_item'
      | 'channel'
      | 'dimension'
      | 'item'
      | 'item_tax_code'
      | 'method'
      | 'party'
      | 'recorded'
      | 'region'
      | 'sale_kind'
      | 'stated'
      | 'system'
      | 'text'
      | 'version_id'
    >
    link: Row<
      {
        baseline_id: string
        entity_id: string
        evidence: Json
        kind: string
        linked_at: Date
        linked_by: string
        object_id: string
        since: Date
        system_id: string
      },
      'evidence' | 'linked_at' | 'since'
    >
    location: Row<
      {
        address: Json
        cut_off: string | null
        entity_id: string
        name: string
        object_id: string
        recorded: string
        time_zone: string
        valid: string
        version_id: string
      },
      'cut_off' | 'recorded' | 'version_id'
    >
    membership: Row<{
      entity_id: string
      person_id: string
      role: 'viewer' | 'preparer' | 'reviewer' | 'administrator'
    }>
    month_proof: Row<{ determined_at: Date; entity_id: string; period: string }>
    net_fact: Row<
      {
        account: string | null
        currency: string
        entity_id: string
        in_base: string
        net: string
        period: string
        place: number
        rounding: boolean
        unit_id: string
        voice: string
      },
      'account' | 'rounding'
    >
    open_share: Row<
      {
        account: string | null
        agency: string | null
        currency: string | null
        entity_id: string | null
        period: string | null
        place: number | null
        tax: string | null
        unit_id: string | null
      },
      'account' | 'agency' | 'currency' | 'entity_id' | 'period' | 'place' | 'tax' | 'unit_id'
    >
    opening: Row<{ day: string; entity_id: string; set_at: Date; set_by: string }, 'set_at'>
    opening_item: Row<
      {
        account: string
        amount: string
        day: string | null
        entity_id: string
        item_no: number
        party: string
        reference: string
      },
      'day'
    >
    opening_list: Row<
      {
        account: string
        aside: string | null
        balance: string | null
        entity_id: string
        kept_at: Date
        kept_by: string
      },
      'aside' | 'balance' | 'kept_at'
    >
    origin: Row<{ one: boolean; seen: string }, 'one'>
    party: Row<
      {
        address: Json | null
        catch_all: boolean
        claims: string | null
        entity_id: string
        name: string
        object_id: string
        recorded: string
        valid: string
        version_id: string
      },
      'address' | 'claims' | 'recorded' | 'version_id'
    >
    past: Row<
      {
        entity_id: string
        kept_of: string
        past_id: string
        recorded: string
        until: Date | null
        was: Json
      },
      'past_id' | 'until'
    >
    payment_method: Row<
      {
        entity_id: string
        kind: string
        name: string
        object_id: string
        recorded: string
        valid: string
        version_id: string
      },
      'recorded' | 'version_id'
    >
    person: Row<
      {
        email: string
        may_create_entities: boolean
        must_change: boolean
        name: string
        password_hash: string
        person_id: string
      },
      'may_create_entities' | 'must_change' | 'person_id'
    >
    post_line: Row<
      {
        booking: string | null
        currency: string
        document_date: string
        document_id: string
        entity_id: string
        in_doubt: boolean
        kind: string
        named: string
        not_taken: string | null
        number: string
        party: string
        party_folded: string
        period: string
        remarked: boolean
        state: string
        status: string
        system_id: string
        tax: string
        there: boolean
        total: string
        voided: boolean
        warned: boolean
      },
      'booking' | 'named' | 'not_taken' | 'party_folded' | 'state' | 'warned'
    >
    post_metric: Row<{ documents: string | null; state: string | null }, 'documents' | 'state'>
    post_sum: Row<
      {
        documents: string
        entity_id: string
        part: string
        period: string
        state: string
        tax: string
        tax_size: string
        warned: boolean
      },
      'part'
    >
    posting_rule: Row<
      {
        account: string
        agency: string | null
        entity_id: string
        kind: string
        object_id: string
        only_by: string | null
        only_id: string | null
        recorded: string
        valid: string
        version_id: string
      },
      'agency' | 'only_by' | 'only_id' | 'recorded' | 'version_id'
    >
    practice_entry: Row<
      {
        action: string
        after: Json | null
        at: Date
        before: Json | null
        digest: Buffer
        from_address: string | null
        object: string
        person: string
        place: string
      },
      'after' | 'before' | 'from_address'
    >
    proof_due: Row<{ entity_id: string; named: string; since: Date }>
    pull: Row<
      {
        counts: Json
        ended: boolean
        entity_id: string
        finished_at: Date
        problem: Json | null
        proved_at: Date | null
        pull_id: string
        run_id: string
        started_at: Date
        system_id: string
      },
      'ended' | 'finished_at' | 'problem' | 'proved_at' | 'pull_id' | 'started_at'
    >
    pull_cursor: Row<
      { entity_id: string; resource: string; sequence: string; system_id: string; whole: boolean },
      'whole'
    >
    pull_due: Row<
      { entity_id: string | null; next_pull_at: Date | null; system_id: string | null },
      'entity_id' | 'next_pull_at' | 'system_id'
    >
    pull_page: Row<
      { after: string; came_at: Date; entity_id: string; next: string; resource: string; system_id: string },
      'came_at'
    >
    question: Row<{ answer: string; asked: string; digest: string; entity_id: string; question_no: number }>
    question_set: Row<{ digest: string; entity_id: string; questions: readonly number[]; set_no: number }>
    rate_version: Row<
      {
        entity_id: string
        jurisdiction: string
        object_id: string
        on_top_of: readonly string[]
        percent: string
        recorded: string
        valid: string
        version_id: string
      },
      'on_top_of' | 'recorded' | 'version_id'
    >
    readiness: Row<
      {
        check_code: string
        checked_at: Date
        entity_id: string
        facts: Json
        period: string
        state: string
        system_id: string
      },
      'checked_at'
    >
    region_rule: Row<
      {
        entity_id: string
        exemption_reasons: readonly string[]
        jurisdiction: string
        object_id: string
        origin_levels: readonly string[]
        recorded: string
        taxed_before_discount: boolean
        taxed_by: string
        valid: string
        version_id: string
      },
      'recorded' | 'version_id'
    >
    registration: Row<
      {
        agency: string
        basis: string | null
        entity_id: string
        frequency: string | null
        number: string
        object_id: string
        recorded: string
        valid: string
        version_id: string
      },
      'basis' | 'frequency' | 'recorded' | 'version_id'
    >
    registration_threshold: Row<
      {
        currency: string | null
        entity_id: string
        jurisdiction: string
        object_id: string
        recorded: string
        sales: string | null
        transactions: number | null
        valid: string
        version_id: string
      },
      'currency' | 'recorded' | 'sales' | 'transactions' | 'version_id'
    >
    rounding_place: Row<
      {
        entity_id: string
        jurisdiction: string
        level: string
        object_id: string
        recorded: string
        tie: string
        unit: string
        valid: string
        version_id: string
      },
      'recorded' | 'version_id'
    >
    run: Row<
      {
        cancel_requested: boolean
        created_at: Date
        done: number
        due_at: Date
        entity_id: string
        failed: number
        kind: string
        lease: string
        leased_by: string | null
        leased_until: Date | null
        payload: Json
        report: Json
        run_id: string
        started_by: string
        state: string
        step: string
        total: number
        tried: number
        updated_at: Date
      },
      | 'cancel_requested'
      | 'created_at'
      | 'done'
      | 'due_at'
      | 'failed'
      | 'lease'
      | 'leased_by'
      | 'leased_until'
      | 'payload'
      | 'report'
      | 'run_id'
      | 'state'
      | 'step'
      | 'total'
      | 'tried'
      | 'updated_at'
    >
    run_metric: Row<
      { kind: string | null; runs: number | null; seconds: number | null; state: string | null },
      'kind' | 'runs' | 'seconds' | 'state'
    >
    run_unfinished: Row<
      {
        due_at: Date | null
        entity_id: string | null
        leased_by: string | null
        run_id: string | null
        waits: boolean | null
      },
      'due_at' | 'entity_id' | 'leased_by' | 'run_id' | 'waits'
    >
    session: Row<
      {
        agent: string | null
        began_at: Date
        expires_at: Date
        from_address: string | null
        person_id: string
        session_id: string
        token_hash: string
      },
      'agent' | 'began_at' | 'from_address' | 'session_id'
    >
    set_up_stamp: Row<{ entity_id: string; part: 'agreed' | 'held'; since: Date; stamp: string }, 'stamp'>
    source_document: Row<
      {
        credits_document: string | null
        currency: string | null
        document_date: string | null
        document_id: string | null
        entity_id: string | null
        kind: string | null
        named: string | null
        not_taken: string | null
        number: string | null
        party: string | null
        period: string | null
        posted: boolean | null
        revision: string | null
        status: string | null
        system_id: string | null
        trading_day: string | null
        value: Json | null
      },
      | 'credits_document'
      | 'currency'
      | 'document_date'
      | 'document_id'
      | 'entity_id'
      | 'kind'
      | 'named'
      | 'not_taken'
      | 'number'
      | 'party'
      | 'period'
      | 'posted'
      | 'revision'
      | 'status'
      | 'system_id'
      | 'trading_day'
      | 'value'
    >
    special_line: Row<
      {
        account: string | null
        amount: string
        entity_id: string
        item_tax_code: string | null
        open: boolean
        period: string
        place: number
        region: string
        rules: readonly string[]
        system_id: string
        taxed: string
        unit_id: string
        what: string
        wording: string
      },
      'account' | 'item_tax_code'
    >
    staged_object: Row<
      {
        day: string | null
        entity_id: string
        object_id: string
        problem: string | null
        readable: Json | null
        removed: boolean
        resource: string
        revision: string
        sequence: string
        system_id: string
        value: Json | null
      },
      'day' | 'problem' | 'readable' | 'value'
    >
    stake_share: Row<{
      amount: string
      currency: string
      entity_id: string
      finding_key: string
      period: string
      unit_id: string
    }>
    system: Row<
      {
        about: Json
        address: string
        circuit_failures: number
        circuit_until: Date | null
        connected_at: Date
        disconnected_at: Date | null
        entity_id: string
        name: string
        role: string
        settings: Json | null
        system_id: string
        token_sealed: Buffer
      },
      'circuit_failures' | 'circuit_until' | 'connected_at' | 'disconnected_at' | 'settings'
    >
    system_scope: Row<
      {
        changed_at: Date
        changed_by: string
        entity_id: string
        next_pull_at: Date | null
        scope: Json
        since: Date
        system_id: string
      },
      'changed_at' | 'next_pull_at' | 'since'
    >
    tax_fact: Row<
      {
        account: string | null
        agency: string | null
        base: string | null
        currency: string
        entity_id: string
        in_base: string
        jurisdiction: string | null
        period: string
        place: number
        tax: string
        unit_id: string
        voice: string
      },
      'account' | 'agency' | 'base' | 'jurisdiction'
    >
    tie_member: Row<
      {
        account: string | null
        agency: string | null
        booked: string | null
        entity_id: string | null
        expected: string | null
        period: string | null
        stated: string | null
        unit_id: string | null
      },
      'account' | 'agency' | 'booked' | 'entity_id' | 'expected' | 'period' | 'stated' | 'unit_id'
    >
    tie_total: Row<{
      account: string
      agency: string
      booked: string
      booked_over: string
      booked_under: string
      entity_id: string
      expected: string
      members: string
      period: string
      stated: string
      stated_members: string
      stated_over: string
      stated_under: string
      unsplit: string
      unsplit_members: string
    }>
    tie_unit: Row<
      {
        assumptions: Json | null
        astray: string | null
        astray_net: string | null
        booked_signature: string | null
        bookings: number | null
        cause: string | null
        combined_rates: readonly string[] | null
        core_version: number | null
        currency: string | null
        determined_at: Date | null
        differs: boolean | null
        document_date: string | null
        document_id: string | null
        edited: boolean | null
        entity_id: string | null
        entry_id: string | null
        exchange_rate: string | null
        expected_complete: boolean | null
        expected_signature: string | null
        facets: readonly string[] | null
        findings: Json | null
        flaws: Json | null
        headline: string | null
        kind: string | null
        matter: Json | null
        members_agree: boolean | null
        missing_why: string | null
        named: string | null
        number: string | null
        odd: readonly string[] | null
        open_lines: readonly string[] | null
        over: string | null
        party: string | null
        period: string | null
        posted: boolean | null
        proved: boolean | null
        settled: string | null
        settled_with: string | null
        split_stated: boolean | null
        system_id: string | null
        taken: boolean | null
        undecided: string | null
        under: string | null
        unit_id: string | null
        unproved: string | null
        unproved_net: string | null
        voided: boolean | null
      },
      | 'assumptions'
      | 'astray'
      | 'astray_net'
      | 'booked_signature'
      | 'bookings'
      | 'cause'
      | 'combined_rates'
      | 'core_version'
      | 'currency'
      | 'determined_at'
      | 'differs'
      | 'document_date'
      | 'document_id'
      | 'edited'
      | 'entity_id'
      | 'entry_id'
      | 'exchange_rate'
      | 'expected_complete'
      | 'expected_signature'
      | 'facets'
      | 'findings'
      | 'flaws'
      | 'headline'
      | 'kind'
      | 'matter'
      | 'members_agree'
      | 'missing_why'
      | 'named'
      | 'number'
      | 'odd'
      | 'open_lines'
      | 'over'
      | 'party'
      | 'period'
      | 'posted'
      | 'proved'
      | 'settled'
      | 'settled_with'
      | 'split_stated'
      | 'system_id'
      | 'taken'
      | 'undecided'
      | 'under'
      | 'unit_id'
      | 'unproved'
      | 'unproved_net'
      | 'voided'
    >
    touch_sum: Row<{ documents: string; entity_id: string; period: string; touch: string }>
    trail_end: Row<
      { chain: string | null; digest: string | null; place: string | null },
      'chain' | 'digest' | 'place'
    >
    unit: Row<
      {
        assumptions: Json
        astray: string
        astray_net: string
        booked: string
        booked_signature: string | null
        bookings: number
        by_set_up: boolean
        by_source: boolean
        cause: string | null
        combined_rates: readonly string[]
        core_version: number
        currency: string
        determined_at: Date
        differs: boolean | null
        document_date: string
        document_id: string | null
        edited: boolean
        entity_id: string
        entry_id: string | null
        exchange_rate: string | null
        expected: string
        expected_complete: boolean
        expected_signature: string | null
        facets: readonly string[]
        findings: Json
        fingerprint: string | null
        flaws: Json
        headline: string | null
        kind: string
        matter: Json | null
        members_agree: boolean
        missing_why: string | null
        named: string
        number: string
        odd: readonly string[]
        open: string
        open_lines: readonly string[]
        over: string
        overridden: boolean
        pairs_left: number
        party: string
        party_folded: string
        period: string
        posted: boolean
        proved: boolean
        rests_on: readonly number[] | null
        search_waits: boolean
        settled: 'kept' | 'cured' | null
        settled_with: string | null
        split_stated: boolean
        state: string
        stated: string
        stated_net: string
        system_id: string
        taken: boolean | null
        touches: readonly string[]
        undecided: string
        under: string
        unit_id: string
        unproved: string
        unproved_net: string
        voided: boolean
      },
      | 'assumptions'
      | 'astray'
      | 'astray_net'
      | 'booked'
      | 'booked_signature'
      | 'by_set_up'
      | 'by_source'
      | 'cause'
      | 'combined_rates'
      | 'differs'
      | 'document_id'
      | 'entry_id'
      | 'exchange_rate'
      | 'expected'
      | 'expected_signature'
      | 'facets'
      | 'findings'
      | 'fingerprint'
      | 'flaws'
      | 'headline'
      | 'kind'
      | 'matter'
      | 'missing_why'
      | 'named'
      | 'odd'
      | 'open'
      | 'open_lines'
      | 'over'
      | 'overridden'
      | 'pairs_left'
      | 'party_folded'
      | 'proved'
      | 'rests_on'
      | 'search_waits'
      | 'settled'
      | 'settled_with'
      | 'split_stated'
      | 'state'
      | 'stated'
      | 'stated_net'
      | 'taken'
      | 'touches'
      | 'undecided'
      | 'under'
      | 'unproved'
      | 'unproved_net'
    >
    unit_member: Row<
      {
        account: string | null
        agency: string | null
        booked: string | null
        entity_id: string | null
        expected: string | null
        period: string | null
        stated: string | null
        unit_id: string | null
      },
      'account' | 'agency' | 'booked' | 'entity_id' | 'expected' | 'period' | 'stated' | 'unit_id'
    >
    unit_sum: Row<{
      documents: string
      entity_id: string
      is_open: boolean
      kind: string
      over: string
      period: string
      posted: boolean
      proved: boolean
      settled: string
      stated: string
      system_id: string
      taken: boolean
      under: string
      unproved: string
      unproved_net: string
    }>
    unproved_history: Row<
      { at: Date; currency: string; entity_id: string; expected: string; period: string; unproved: string },
      'at'
    >
    unproved_share: Row<
      {
        account: string | null
        agency: string | null
        currency: string
        entity_id: string
        period: string
        place: number
        settled: boolean
        tax: string
        unit_id: string
      },
      'account' | 'agency' | 'settled'
    >
    without_unit: Row<{ entity_id: string; period: string; rests_on: readonly number[] }>
    work_tick: Row<{ at: Date; cause: string; entity_id: string; named: string; person: string }, 'at'>
    worker_heartbeat: Row<{ at: Date; worker_id: string }, 'at'>
  }
}
