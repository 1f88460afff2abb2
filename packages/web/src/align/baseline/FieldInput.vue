<script setup lang="ts">
import { computed } from 'vue'
import NameChoice from '../NameChoice.vue'
import CodesField from './CodesField.vue'
import CoversField from './CoversField.vue'
import { cellText, type Field } from './words.ts'

/** One field of an object, by what may stand in it: words to choose from, codes that are there, places, or text. */
const props = defineProps<{ field: Field; locked: boolean }>()
const cell = defineModel<string>({ required: true })
const names = computed(() => `/baseline/names?of=${props.field.names ?? ''}`)
const words = computed(() =>
  props.field.type === 'flag' ? ['yes', 'no'] : props.field.type === 'list' ? null : props.field.words,
)
const several = computed(() => (props.field.type === 'list' ? props.field.words : null))
const isChosen = (word: string): boolean =>
  cell.value
    .split(';')
    .map((one) => one.trim())
    .includes(word)
/** In the order that the words have, whichever was ticked first. */
function tick(word: string): void {
  cell.value = (several.value ?? [])
    .filter((one) => (one === word ? !isChosen(one) : isChosen(one)))
    .join('; ')
}
const first = computed(() => (cell.value === '' ? [] : [{ id: cell.value, name: cell.value }]))
</script>

<template>
  <span v-if="locked" class="locked">{{ cellText(field, cell) }}</span>
  <select
    v-else-if="words"
    v-model="cell"
    :name="field.path"
    :aria-label="field.title"
    :required="field.needed"
  >
    <option value="" :disabled="field.needed">{{ field.needed ? 'choose' : 'none' }}</option>
    <option v-for="word in words" :key="word" :value="word">{{ word.replaceAll('-', ' ') }}</option>
  </select>
  <span v-else-if="several" class="several">
    <label v-for="word in several" :key="word"
      ><input
        type="checkbox"
        :name="`${field.path} ${word}`"
        :checked="isChosen(word)"
        @change="tick(word)"
      />
      {{ word.replaceAll('-', ' ') }}</label
    >
  </span>
  <CoversField v-else-if="field.type === 'covers'" v-model="cell" />
  <CodesField
    v-else-if="field.names && field.type === 'list'"
    v-model="cell"
    :names="names"
    :label="field.title"
  />
  <NameChoice
    v-else-if="field.names"
    v-model="cell"
    :names="names"
    :first="first"
    :label="field.title"
    :placeholder="field.needed ? 'choose' : 'none'"
  />
  <input
    v-else
    v-model="cell"
    :name="field.path"
    :aria-label="field.title"
    :required="field.needed"
    :inputmode="field.type === 'whole' ? 'numeric' : undefined"
    :placeholder="field.type === 'list' ? 'several: apart by ;' : undefined"
    maxlength="400"
  />
</template>

<style scoped>
.several {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}
.locked {
  font-weight: 600;
}
</style>
