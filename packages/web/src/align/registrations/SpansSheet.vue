<script
  setup
  lang="ts"
  generic="Row extends { readonly id: string; readonly name: string; readonly versions: readonly object[] }"
>
import SpansForm, { type Span, type SpanField } from './SpansForm.vue'

/** A sheet of what is said with its days of an agency, a region, a country: each row with a form of all its spans, opened under it. */
const props = defineProps<{
  label: string
  /** What a row is of: it is marked by it. */
  of: string
  heads: readonly { readonly title: string; readonly n?: boolean }[]
  rows: readonly Row[]
  fields: readonly SpanField[]
  /** A span to begin with. */
  fresh: (row: Row) => Span
  /** What opens the form, and in full for whoever hears it. */
  word?: (row: Row) => string
  says: (row: Row) => string
  may: boolean
  busy: boolean
}>()
/** The row that is edited, of all sheets of a page. */
const editing = defineModel<string | null>('editing', { required: true })
const emit = defineEmits<{ keep: [id: string, spans: readonly Span[]] }>()
defineSlots<{ default(of: { row: Row }): unknown }>()
const keyOf = ({ id }: Row): string => `${props.of} ${id}`
const spansOf = ({ versions }: Row): readonly Span[] => versions as readonly Span[]
const mark = (row: Row): Record<string, string> => ({ [`data-${props.of}`]: row.id })
function turn(row: Row): void {
  editing.value = editing.value === keyOf(row) ? null : keyOf(row)
}
</script>

<template>
  <div class="scroll" tabindex="0" role="region" :aria-label="label">
    <table class="sheet" :aria-label="label">
      <thead>
        <tr>
          <th v-for="{ title, n } in heads" :key="title" scope="col" :class="{ n }">{{ title }}</th>
          <th scope="col" aria-label="Change" />
        </tr>
      </thead>
      <tbody>
        <template v-for="row in rows" :key="row.id">
          <tr v-bind="mark(row)">
            <slot :row="row" />
            <td class="acts">
              <button v-if="may" class="plain" type="button" :aria-label="says(row)" @click="turn(row)">
                {{ word?.(row) ?? 'change' }}
              </button>
            </td>
          </tr>
          <tr v-if="editing === keyOf(row)">
            <td :colspan="heads.length + 1" class="form">
              <SpansForm
                :fields="fields"
                :spans="spansOf(row)"
                :fresh="fresh(row)"
                :busy="busy"
                @keep="emit('keep', row.id, $event)"
                @cancel="editing = null"
              />
            </td>
          </tr>
        </template>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.acts {
  text-align: right;
}
.acts .plain {
  font-size: 13px;
}
.sheet td.form {
  max-width: none;
  white-space: normal;
  background: var(--paper);
}
.sheet :slotted(td.wide) {
  max-width: 420px;
}
</style>
