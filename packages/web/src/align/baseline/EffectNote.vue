<script setup lang="ts">
import type { AgreedPreview } from '@axion/contract'
import { computed } from 'vue'
import { count, useFormat } from '../../figures/format.ts'

/** What a change would do to each month, before it is made: first whether it moves anything, then month by month. */
const props = defineProps<{ preview: AgreedPreview }>()
const format = useFormat()
const moved = computed(() => props.preview.months.filter(({ differ }) => differ > 0))
const documents = computed(() => moved.value.reduce((all, { differ }) => all + differ, 0))
const says = computed(() =>
  props.preview.rest === 0
    ? 'No document rests on it.'
    : documents.value === 0
      ? 'No document would bear another tax.'
      : `${count(documents.value, 'document')} would bear another tax, or owe it elsewhere.`,
)
/** Never calm over what was not looked at. */
const looked = computed(() => {
  const { rest, worked } = props.preview
  if (rest === 0) return ''
  const were = `${count(worked, 'document')} ${worked === 1 ? 'was' : 'were'} looked at`
  return rest > worked
    ? `${were}, the newest of ${rest.toLocaleString('en-US')} that it may touch: what it does to the others is not known before it is done.`
    : `${were}: all that it may touch.`
})
const days = new Set(['From', 'Until'])
const text = (title: string, value: string | null): string =>
  value === null ? 'nothing' : days.has(title) ? format.value.longDay(value) : value.replaceAll(';', ',')
</script>

<template>
  <section class="effect" data-effect aria-label="What it would do">
    <p v-if="preview.since" class="soft">From {{ format.longDay(preview.since) }} on:</p>
    <ul class="fields">
      <li v-for="field in preview.fields" :key="field.title" :data-field="field.title">
        {{ field.title }}: <span class="soft">{{ text(field.title, field.before) }}</span> →
        <b>{{ text(field.title, field.after) }}</b>
      </li>
    </ul>
    <p>
      <b>{{ says }}</b> {{ looked }}
      <template v-if="preview.booked > 0"
        >{{ count(preview.booked, 'booking') }} would go elsewhere.</template
      >
    </p>
    <div v-if="moved.length > 0" class="scroll" tabindex="0" role="region" aria-label="Month by month">
      <table class="sheet">
        <thead>
          <tr>
            <th scope="col">Month</th>
            <th scope="col" class="n">Documents</th>
            <th scope="col" class="n">Proved now</th>
            <th scope="col" class="n">Expected now, {{ preview.currency }}</th>
            <th scope="col" class="n">Expected then</th>
            <th scope="col">Beside them</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in moved" :key="one.month" :data-month="one.month">
            <td>{{ format.month(one.month) }}</td>
            <td class="n">{{ one.differ.toLocaleString('en-US') }}</td>
            <td class="n">{{ one.proved === 0 ? '–' : one.proved.toLocaleString('en-US') }}</td>
            <td class="n">{{ format.amount(one.before) }}</td>
            <td class="n strong">{{ format.amount(one.after) }}</td>
            <td class="soft">
              {{
                [
                  one.known > 0 ? `of ${one.known} the tax is known only then` : '',
                  one.unknown > 0 ? `of ${one.unknown} it is known no more` : '',
                ]
                  .filter(Boolean)
                  .join('; ') || 'nothing'
              }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.effect {
  margin-top: 12px;
  font-size: 14.5px;
}
.fields {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
  max-height: 120px;
  overflow: auto;
}
.fields li {
  overflow-wrap: anywhere;
}
.scroll {
  max-height: 160px;
  margin-top: 6px;
}
</style>
