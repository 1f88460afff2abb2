<script setup lang="ts">
import type { AgreedKind, AgreedPreview } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { useFormat } from '../../figures/format.ts'
import { call } from '../../shell/api.ts'
import { useMonth } from '../../shell/month.ts'
import RefusedNote from '../../shell/RefusedNote.vue'
import { useAttempt } from '../../shell/useAttempt.ts'
import { changeOf, draftOf, type Doing } from './draft.ts'
import EffectNote from './EffectNote.vue'
import FieldInput from './FieldInput.vue'
import { KIND_NAMES, type Field } from './words.ts'

/** One object that is made, changed, ended or taken off: filled in, looked at, then agreed upon as it was looked at. */
const props = defineProps<{
  kind: AgreedKind
  fields: readonly Field[]
  dated: boolean
}>()
const doing = defineModel<Doing | null>({ required: true })
const emit = defineEmits<{ kept: [id: string] }>()
const { api, month, changed } = useMonth()
const format = useFormat()
const { refused, busy, attempt } = useAttempt()
const blank = { act: 'make', id: null, version: null } as const
const begun = (): ReturnType<typeof draftOf> =>
  draftOf(
    doing.value ?? blank,
    props.fields.map(({ path }) => path),
    { month: month.value, dated: props.dated },
  )
const draft = ref(begun())
const looked = ref<{ readonly of: string; readonly preview: AgreedPreview } | null>(null)
watch(doing, () => {
  draft.value = begun()
  looked.value = null
  refused.value = null
})
const act = computed(() => doing.value?.act ?? 'make')
const change = computed(() => changeOf(doing.value ?? blank, draft.value))
/** What was looked at counts as long as nothing is typed after it. */
const preview = computed(() =>
  looked.value?.of === JSON.stringify(change.value) ? looked.value.preview : null,
)
const one = computed(() => KIND_NAMES[props.kind][0])
const title = computed(() => {
  const which = doing.value?.version?.cells['name'] || doing.value?.id || ''
  return {
    make: `A new ${one.value}`,
    change: `Change the ${one.value} ${which}`,
    end: `End the ${one.value} ${which}`,
    remove: `Take the ${one.value} ${which} off the baseline`,
  }[act.value]
})
const filling = computed(() => act.value === 'make' || act.value === 'change')
const address = computed(() => `${api.value}/baseline/${props.kind}`)
const look = (): Promise<void> =>
  attempt(async () => {
    const of = JSON.stringify(change.value)
    const found = await call<AgreedPreview>('POST', `${address.value}/preview`, { change: change.value })
    looked.value = { of, preview: found }
  })
const keep = (): Promise<void> =>
  attempt(async () => {
    const { id } = await call<{ id: string }>('POST', address.value, {
      change: change.value,
      revision: preview.value?.revision ?? '',
    })
    doing.value = null
    emit('kept', id)
    await changed()
  })
const isOpen = computed({
  get: () => doing.value !== null,
  set: (open) => {
    if (!open) doing.value = null
  },
})
</script>

<template>
  <v-dialog v-model="isOpen" max-width="920" :aria-label="title">
    <form v-if="doing" class="dialog fielded" data-object-form @submit.prevent="preview ? keep() : look()">
      <h2>{{ title }}</h2>
      <RefusedNote :refused="refused" />
      <template v-if="filling">
        <div
          v-for="field in fields"
          :key="field.path"
          class="field"
          :class="{ tall: field.type === 'covers' }"
          :data-field="field.path"
        >
          <span class="called">{{ field.title }}</span>
          <FieldInput
            v-model="draft.cells[field.path] as string"
            :field="field"
            :locked="act === 'change' && field.known"
          />
        </div>
      </template>
      <p v-if="act === 'remove'" class="why">
        As if it had never been agreed: whatever rested on it is expected otherwise. What held, and does no
        more, is ended instead.
      </p>
      <fieldset v-if="dated && act === 'change'" class="field days">
        <legend class="visually-hidden">When it is so</legend>
        <label
          ><input v-model="draft.from" type="radio" value="a-day" name="when" /> from
          <input
            v-model="draft.since"
            type="date"
            aria-label="From this day on"
            :required="draft.from === 'a-day'"
            :disabled="draft.from !== 'a-day'"
          />
          on: what stands goes on to the day before it</label
        >
        <label
          ><input v-model="draft.from" type="radio" value="always" name="when" /> at all its days: what stands
          was never right</label
        >
      </fieldset>
      <div v-if="dated && (act === 'make' || (act === 'change' && draft.from === 'always'))" class="field">
        <span class="called">Holds</span>
        <span class="span"
          >from <input v-model="draft.first" type="date" aria-label="First day" /> until
          <input v-model="draft.last" type="date" aria-label="Last day" :min="draft.first" />
          <span class="soft">Without a first day: from the beginning. Without a last: on.</span></span
        >
      </div>
      <div v-if="act === 'end'" class="field">
        <span class="called">Last day</span>
        <span class="span"
          ><input v-model="draft.last" type="date" aria-label="Last day" required />
          <span class="soft"
            >It holds
            {{
              doing.version?.from ? `from ${format.longDay(doing.version.from)}` : 'from the beginning'
            }}.</span
          ></span
        >
      </div>
      <EffectNote v-if="preview" :preview="preview" />
      <div class="actions">
        <button v-if="preview" type="submit" class="do first" :disabled="busy" data-agree>
          {{ act === 'remove' ? 'Take it off' : act === 'end' ? 'End it' : 'Agree upon it' }}
        </button>
        <button v-else type="submit" class="do first" :disabled="busy" data-look>
          {{ busy ? 'Working it out' : 'See what it would do' }}
        </button>
        <button type="button" class="do" @click="doing = null">Not now</button>
      </div>
    </form>
  </v-dialog>
</template>

<style scoped>
.dialog {
  max-height: calc(100vh - 60px);
  overflow: auto;
}
.field {
  display: grid;
  grid-template-columns: 170px minmax(0, 1fr);
  gap: 2px 14px;
  align-items: center;
  min-height: 33px;
  font-size: 14.5px;
}
.field.tall {
  align-items: start;
  padding-top: 5px;
}
.called {
  color: var(--soft);
  font-size: 14px;
}
.days {
  border: 0;
  padding: 0;
  margin: 6px 0 0;
  display: grid;
  grid-template-columns: 1fr;
  gap: 4px;
  padding-left: 184px;
}
.span {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.why {
  max-width: 640px;
}
.field > :deep(input),
.field > :deep(select),
.field > :deep(.name-choice) {
  width: 100%;
  max-width: 380px;
}
@media (max-width: 760px) {
  .field {
    grid-template-columns: minmax(0, 1fr);
  }
  .days {
    padding-left: 0;
  }
}
</style>
