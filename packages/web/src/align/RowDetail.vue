<script setup lang="ts">
import {
  NEW_ROW,
  type FindingView,
  type GridCell,
  type GridObject,
  type GridRow,
  type GridView,
  type Remedy,
} from '@axion/contract'
import { computed } from 'vue'
import StateMark from '../figures/StateMark.vue'
import { useMonth } from '../shell/month.ts'
import AccountChoice from './AccountChoice.vue'
import CertificatePanel from './CertificatePanel.vue'
import FindingList from './FindingList.vue'
import RateTimeline from './RateTimeline.vue'
import { AGREED_AS, EVIDENCE_WORDS } from './words.ts'

/** A row opened into its fields side by side, with what can be done about each system's object. */
const props = defineProps<{ row: GridRow; view: GridView }>()
defineEmits<{
  link: [systemId: string, objectId: string, baselineId: string]
  unlink: [systemId: string, objectId: string]
  mend: [remedies: readonly Remedy[]]
  leave: [finding: FindingView, reason: string | null]
}>()
function systemOf(id: string): { readonly system: string; readonly address: string | null } {
  const found = props.view.systems.find((s) => s.id === id)
  return { system: found?.name ?? '', address: found?.webAddress ?? null }
}
const { api, entity, month } = useMonth()
const remediesOf = (cell: GridCell, object: GridObject): readonly Remedy[] =>
  cell.remedies.filter((r) => 'objectId' in r && r.objectId === object.id)
/** What is new is no object, and what has no account yet no rule. */
const isAgreed = computed(
  () =>
    !props.row.extra &&
    props.row.id !== NEW_ROW &&
    (props.view.kind !== 'accounts' || props.row.total !== ''),
)
/** What systems lack and would take. */
const lacking = computed(() =>
  props.row.cells
    .map((cell) => ({
      cell,
      remedies: cell.remedies.filter((r) => r.kind === 'create'),
      ...systemOf(cell.systemId),
    }))
    .filter((one) => one.remedies.length > 0),
)
const objects = computed(() =>
  props.row.cells.flatMap((cell) =>
    cell.objects.map((object) => ({ cell, object, ...systemOf(cell.systemId) })),
  ),
)
/** What agrees is said in one line: the room is for what does not. */
const isSettled = ({ object }: { readonly object: GridObject }): boolean =>
  object.agrees && object.linked && object.names === null
const open = computed(() => objects.value.filter((o) => !isSettled(o)))
const agreeing = computed(() => objects.value.filter(isSettled))
</script>

<template>
  <section class="detail" :aria-label="`${row.name}, field by field`">
    <FindingList :findings="row.findings" @leave="(finding, reason) => $emit('leave', finding, reason)" />
    <div
      v-for="{ cell, object, system, address } in open"
      :key="cell.systemId + object.id"
      class="object"
      :data-object="object.id"
    >
      <h3>
        {{ system }}:
        <template v-if="object.names"
          ><span v-for="(piece, at) in object.names.right" :key="at" :class="{ odd: !piece.same }">{{
            piece.text.replaceAll(' ', piece.same ? ' ' : '␣')
          }}</span></template
        ><template v-else>{{ object.name }}</template>
      </h3>
      <p v-if="object.names" class="soft">
        The baseline:
        <span v-for="(piece, at) in object.names.left" :key="at" :class="{ odd: !piece.same }">{{
          piece.text.replaceAll(' ', piece.same ? ' ' : '␣')
        }}</span>
      </p>
      <p v-if="!object.linked && object.evidence.length > 0" class="soft">
        Proposed for {{ object.evidence.map((e) => EVIDENCE_WORDS[e]).join(', ') }}
      </p>
      <p v-if="object.gone" class="soft">Linked, and gone from the system</p>
      <p v-for="field in object.fields" :key="field.field" class="field">
        <span>{{ field.field }}</span><b>{{ field.ours }}</b
        ><StateMark :state="field.agrees ? 'holds' : 'breaks'" :word="field.theirs ?? 'not held'" />
      </p>
      <div class="actions">
        <button
          v-if="!object.linked && !row.extra"
          class="do small first"
          type="button"
          @click="$emit('link', cell.systemId, object.id, row.id)"
        >
          Accept the link <kbd>a</kbd>
        </button>
        <button
          v-if="remediesOf(cell, object).length > 0"
          class="do small"
          type="button"
          @click="$emit('mend', remediesOf(cell, object))"
        >
          Mend it <kbd>m</kbd>
        </button>
        <a
          v-if="
            !object.agrees &&
            object.linked &&
            !object.gone &&
            view.kind !== 'codes' &&
            remediesOf(cell, object).every((r) => r.kind === 'adopt')
          "
          class="plain"
          :href="`${api}/align/${view.kind}/should-hold?system=${cell.systemId}`"
          download
          >What {{ system }} should hold, as CSV</a
        >
        <a v-if="address && !object.agrees" class="plain" :href="address" target="_blank" rel="noopener"
          >Open {{ system }}</a
        >
        <button
          v-if="object.linked && object.finding !== ''"
          :class="object.gone ? 'do small' : 'plain'"
          type="button"
          @click="$emit('unlink', cell.systemId, object.id)"
        >
          Take the link back
        </button>
      </div>
    </div>
    <div
      v-for="{ cell, remedies, system } in lacking"
      :key="cell.systemId"
      class="object"
      :data-lacking="cell.systemId"
    >
      <h3>{{ system }} holds nothing for it</h3>
      <div class="actions">
        <button class="do small" type="button" @click="$emit('mend', remedies)">
          Make it there <kbd>m</kbd>
        </button>
      </div>
    </div>
    <AccountChoice
      v-if="view.kind === 'accounts' && !row.extra"
      :key="row.id"
      :rule-id="row.id"
      :account="row.total"
      class="agreeing"
      @mend="$emit('mend', $event)"
    />
    <CertificatePanel
      v-if="view.kind === 'parties' && !row.extra"
      :key="row.id"
      :party="row.id"
      :name="row.name"
    />
    <RateTimeline v-if="view.kind === 'rates' && !row.extra" :key="row.id" :rate="row.id" />
    <p v-if="isAgreed" class="agreeing">
      <RouterLink
        class="plain"
        :to="{
          name: 'baseline',
          params: { entity: entity.id, month, kind: AGREED_AS[view.kind] },
          query: { row: row.id },
        }"
        >what is agreed, through its versions</RouterLink
      >
    </p>
    <p v-if="agreeing.length > 0" class="agreeing">
      <StateMark state="holds" :word="agreeing.length === 1 ? 'agrees' : 'agree'" />{{ ' ' }}
      <span
        v-for="{ cell, object, system } in agreeing"
        :key="cell.systemId + object.id"
        :data-object="object.id"
        >{{ system }}: {{ object.name
        }}<button
          v-if="object.finding !== ''"
          class="plain"
          type="button"
          @click="$emit('unlink', cell.systemId, object.id)"
        >
          take the link back
        </button></span
      >
    </p>
    <p v-if="objects.length === 0 && row.findings.length === 0 && lacking.length === 0" class="soft">
      No system holds anything that looks like it.
    </p>
  </section>
</template>

<style scoped>
.detail {
  max-height: 46%;
  overflow-y: auto;
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(500px, 1fr));
  gap: 14px;
  margin-top: 12px;
}
.object {
  max-width: 700px;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-left: 3px solid var(--plum);
  padding: 8px 14px;
}
h3 {
  font-weight: 600;
}
.odd {
  background: var(--rust-wash);
  color: var(--rust);
  font-weight: 700;
  outline: 1px solid var(--rust);
}
.field {
  display: grid;
  grid-template-columns: 1fr minmax(76px, auto) 190px;
  gap: 10px;
  border-bottom: 1px solid var(--rule);
  font-size: 14px;
  padding: 2px 0;
}
.field b {
  text-align: right;
  font-weight: 600;
}
.actions {
  display: flex;
  gap: 10px;
  margin-top: 8px;
  align-items: center;
  flex-wrap: wrap;
}
.small {
  min-height: 27px;
  padding: 0 10px;
}
.agreeing {
  grid-column: 1 / -1;
  display: flex;
  gap: 18px;
  flex-wrap: wrap;
  font-size: 14px;
}
.agreeing .plain {
  margin-left: 6px;
}
</style>
