<script setup lang="ts">
import { monthBefore, useSession } from '../shell/session.ts'

const session = useSession()
</script>

<template>
  <main class="page">
    <p class="question">Which legal entity?</p>
    <div v-if="session.entities.length === 0" class="empty"><strong>You belong to no legal entity yet</strong>Ask an administrator to add you.</div>
    <ul>
      <li v-for="entity in session.entities" :key="entity.id">
        <RouterLink :to="{ name: 'close', params: { entity: entity.id, month: monthBefore(entity.today) } }">{{ entity.name }}</RouterLink>
      </li>
    </ul>
  </main>
</template>
