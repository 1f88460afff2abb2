<script setup lang="ts">
import { ref } from 'vue'

/** The spans of one registration, or of one region's thresholds, each with its dates: kept together, or not at all. */
export interface SpanField {
  readonly key: string
  readonly label: string
  readonly options?: readonly string[]
  /** The options as they are read. */
  readonly words?: Readonly<Record<string, string>>
  readonly whole?: boolean
  readonly needed?: boolean
  readonly wide?: boolean
}
export type Span = Readonly<Record<string, string | number | null>>
const props = defineProps<{
  fields: readonly SpanField[]
  spans: readonly Span[]
  fresh: Span
  busy: boolean
}>()
const emit = defineEmits<{ keep: [spans: readonly Span[]]; cancel: [] }>()
const drafts = ref<Span[]>(
  props.spans.length === 0 ? [{ ...props.fresh }] : props.spans.map((span) => ({ ...span })),
)
function set(at: number, { key, whole }: Pick<SpanField, 'key' | 'whole'>, event: Event): void {
  const text = (event.target as HTMLInputElement).value.trim()
  drafts.value = drafts.value.map((span, place) =>
    place === at ? { ...span, [key]: text === '' ? null : whole ? Math.trunc(Number(text)) : text } : span,
  )
}
</script>

<template>
  <form class="spans" @submit.prevent="emit('keep', drafts)">
    <p v-for="(span, at) in drafts" :key="at" class="span" :data-span="at">
      <label v-for="field in fields" :key="field.key"
        >{{ field.label }}
        <select
          v-if="field.options"
          :value="span[field.key] ?? ''"
          :required="field.needed"
          :aria-label="field.label || 'answer'"
          :class="{ wide: field.words }"
          @change="set(at, field, $event)"
        >
          <option value="">not said</option>
          <option v-for="option in field.options" :key="option" :value="option">
            {{ field.words?.[option] ?? option.replaceAll('-', ' ') }}
          </option>
        </select>
        <input
          v-else
          :value="span[field.key] ?? ''"
          :type="field.whole ? 'number' : 'text'"
          :min="field.whole ? 1 : undefined"
          :required="field.needed"
          :class="{ wide: field.wide }"
          :maxlength="field.wide ? 400 : 60"
          @input="set(at, field, $event)"
        />
      </label>
      <label
        >from <input type="date" :value="span['from']" required @change="set(at, { key: 'from' }, $event)"
      /></label>
      <label
        >until
        <input
          type="date"
          :value="span['to'] ?? ''"
          :min="String(span['from'] ?? '')"
          @change="set(at, { key: 'to' }, $event)"
      /></label>
      <button class="plain" type="button" @click="drafts = drafts.filter((_, place) => place !== at)">
        take it out
      </button>
    </p>
    <p class="actions">
      <button class="do small" type="submit" :disabled="busy">Keep it</button>{{ ' ' }}
      <button class="plain" type="button" @click="drafts = [...drafts, { ...fresh }]">another span</button
      >{{ ' ' }}
      <button class="plain" type="button" @click="emit('cancel')">Not now</button>
    </p>
  </form>
</template>

<style scoped>
.spans {
  padding: 8px 0;
  font-size: 14px;
}
.span {
  display: flex;
  gap: 6px 14px;
  flex-wrap: wrap;
  align-items: center;
  margin: 0 0 6px;
}
label {
  color: var(--soft);
}
input,
select {
  font: inherit;
  font-size: 14px;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  height: 26px;
  padding: 0 6px;
  width: 132px;
}
.wide {
  width: 200px;
}
.actions {
  display: flex;
  gap: 12px;
  align-items: center;
}
.small {
  min-height: 26px;
  padding: 0 10px;
}
</style>
