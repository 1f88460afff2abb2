<script lang="ts">
import type { Scope, ScopePart, ScopeView } from '@axion/contract'

/** A channel, an outlet, a kind or a status of a system's documents, with the month's amounts. */
export type PartRow = ScopeView['parts'][ScopePart][number] & {
  readonly part: ScopePart
  readonly label: string
  readonly first: boolean
}
</script>

<script setup lang="ts">
import { useFormat } from '../figures/format.ts'

/** What of a system is taken, to be switched off and on. */
const props = defineProps<{ name: string; parts: readonly PartRow[]; currency: string; off: Scope['off'] }>()
const emit = defineEmits<{ flip: [part: ScopePart, key: string] }>()
const format = useFormat()
const PART: Readonly<Record<ScopePart, string>> = {
  channels: 'Channel',
  places: 'Outlet',
  kinds: 'Kind',
  statuses: 'Status',
}
const isOff = ({ part, key }: PartRow): boolean => (props.off[part] as readonly string[]).includes(key)
</script>

<template>
  <table class="sheet" :aria-label="`What of ${name} is taken`">
    <thead>
      <tr>
        <th scope="col" colspan="2">Taken</th>
        <th scope="col" class="n">Documents</th>
        <th scope="col" class="n">Total, {{ currency }}</th>
        <th scope="col" class="n">Tax</th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="each in parts"
        :key="each.part + each.key"
        :class="{ off: isOff(each) }"
        :data-part="`${each.part}:${each.key}`"
      >
        <td class="part soft">{{ each.first ? PART[each.part] : '' }}</td>
        <td>
          <label
            ><input type="checkbox" :checked="!isOff(each)" @change="emit('flip', each.part, each.key)" />
            {{ each.label }}</label
          >{{ ' ' }}
          <b v-if="isOff(each)" class="hole">off</b>
        </td>
        <td class="n">{{ each.documents || '–' }}</td>
        <td class="n">{{ format.figure(each.documents === 0 ? null : each.total) }}</td>
        <td class="n">{{ format.figure(each.documents === 0 ? null : each.tax) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped src="./scope.css"></style>

<style scoped>
.part {
  width: 76px;
}
.off td {
  background: var(--rust-wash);
}
.hole {
  color: var(--rust);
  font-weight: 600;
}
</style>
