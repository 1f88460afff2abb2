<script setup lang="ts">
import { useRouter } from 'vue-router'
import { count, isNil, provedWord } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import { useSession } from '../shell/session.ts'
import { unread } from '../shell/stages.ts'
import { moneyOf } from './money.ts'
import { isOpen, next, type EntityRow } from './nextStep.ts'

/** A legal entity on the board: what waits at each stage of the month, and what to do next. */
const props = defineProps<{ row: EntityRow }>()
const session = useSession()
const router = useRouter()
const BEFORE = { nothing: 'open', open: 'breaks', proved: 'holds' } as const
const money = (text: string): string =>
  moneyOf(session.entities.find((one) => one.id === props.row.id)?.locale ?? 'en-US', text)
const to = (name: string, params: Record<string, string> = {}): object => ({
  name,
  params: { entity: props.row.id, month: props.row.month, ...params },
})
const go = (): void => void router.push(to('close'))
</script>

<template>
  <tr :data-entity="row.id" @click="go">
    <td class="strong">
      <RouterLink :to="to('close')" @click.stop>{{ row.name }}</RouterLink>
    </td>
    <td class="soft role">{{ row.role }}</td>
    <td data-before>
      <RouterLink
        class="quiet"
        :to="{ name: 'close', params: { entity: row.id, month: row.before.month } }"
        @click.stop
        ><StateMark
          :state="BEFORE[row.before.state]"
          :word="
            row.before.state === 'open'
              ? isNil(row.before.unproved)
                ? 'open'
                : `${money(row.before.unproved)} open`
              : row.before.state === 'proved'
                ? provedWord(row.before)
                : 'not known'
          "
      /></RouterLink>
    </td>
    <td>
      <StateMark
        :state="
          !row.path.connect.pulled && !row.path.connect.empty
            ? 'open'
            : row.path.connect.failing + row.path.connect.stale > 0
              ? 'breaks'
              : row.path.connect.ready < row.path.connect.systems
                ? 'open'
                : 'holds'
        "
        :word="
          !row.path.connect.pulled && !row.path.connect.empty
            ? 'not pulled'
            : row.path.connect.stale > 0
              ? `${row.path.connect.stale} not read`
              : row.path.connect.failing > 0
                ? count(row.path.connect.failing, 'check stops posting', 'checks stop posting')
                : `${row.path.connect.ready} of ${row.path.connect.systems} ready`
        "
      />
    </td>
    <td class="n">
      <RouterLink v-if="!isNil(row.path.align.stake)" :to="to('align', { kind: 'rates' })" @click.stop>{{
        money(row.path.align.stake)
      }}</RouterLink><span v-else class="nil">–</span>
    </td>
    <td class="n">
      <RouterLink v-if="!isNil(row.path.post.tax)" :to="to('post')" @click.stop>{{
        money(row.path.post.tax)
      }}</RouterLink><span v-else class="nil">–</span>
    </td>
    <td class="n">
      <RouterLink v-if="!isNil(row.path.tieout.unproved)" class="breaks" :to="to('tie-out')" @click.stop>{{
        money(row.path.tieout.unproved)
      }}</RouterLink><span v-else class="nil">{{
        !row.path.connect.pulled
          ? unread(row.path.connect)
          : isOpen(row)
            ? count(row.path.tieout.documents, 'document')
            : row.path.tieout.apart > 0
              ? `${row.path.tieout.apart} apart`
              : '–'
      }}</span>
    </td>
    <td class="cur soft">{{ row.path.currency }}</td>
    <td>
      <RouterLink class="do small" :to="to(next(row).stage, next(row).params)" @click.stop>{{
        next(row).word
      }}</RouterLink>
    </td>
  </tr>
</template>

<style scoped>
td {
  height: 44px;
}
tr {
  cursor: pointer;
}
tr:hover td {
  background: var(--plum-wash);
}
.strong {
  font-weight: 600;
  font-size: 16px;
}
.breaks {
  font-weight: 700;
}
.quiet {
  text-decoration: none;
}
.nil {
  color: var(--faint);
}
.small {
  min-height: 27px;
  padding: 0 10px;
}
@media (max-width: 1100px) {
  .role {
    display: none;
  }
}
</style>
