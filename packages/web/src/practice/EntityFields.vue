<script setup lang="ts">
import { computed } from 'vue'
import { LOCALES, MONTHS, sampleOf } from './choices.ts'

/** What of a legal entity may be changed at any time: its name, how figures are written, when its year begins. */
const name = defineModel<string>('name', { required: true })
const locale = defineModel<string>('locale', { required: true })
/** The month from 1 to 12 as text; empty where nobody said so. */
const yearBegins = defineModel<string>('yearBegins', { required: true })
defineProps<{ mayStayOpen?: boolean }>()
const sample = computed(() => sampleOf(locale.value))
</script>

<template>
  <label
    ><span>Name</span>
    <input v-model="name" name="name" required maxlength="200" autocomplete="organization" />
    <small>As it stands in its registrations.</small></label
  >
  <slot />
  <label
    ><span>Figures and dates</span>
    <input v-model="locale" name="locale" required maxlength="35" list="locales" autocomplete="off" />
    <datalist id="locales"><option v-for="one in LOCALES" :key="one" :value="one" /></datalist>
    <small :class="{ breaks: sample === null }">{{
      sample ?? 'No figure can be written by that. A language and a country, such as en-GB.'
    }}</small></label
  >
  <label
    ><span>Financial year begins in</span>
    <select v-model="yearBegins" name="yearBegins" :required="!mayStayOpen">
      <option value="" :disabled="!mayStayOpen">{{ mayStayOpen ? 'not said' : 'choose' }}</option>
      <option v-for="one in MONTHS" :key="one.code" :value="one.code">{{ one.name }}</option>
    </select></label
  >
</template>
