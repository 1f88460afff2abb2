<script setup lang="ts">
import PersonMenu from '../shell/PersonMenu.vue'

/** The head of a page that belongs to no legal entity. */
</script>

<template>
  <header class="band">
    <div>
      <p>
        <strong>Axion</strong><span><RouterLink :to="{ name: 'practice' }">Practice</RouterLink></span>
      </p>
      <slot />
    </div>
    <div class="person"><PersonMenu /></div>
  </header>
</template>

<style scoped>
.band {
  display: flex;
  align-items: center;
  justify-content: space-between;
  background: var(--band);
  color: var(--band-ink);
  min-height: 58px;
  padding: 0 20px;
}
.band p {
  display: flex;
  align-items: baseline;
  gap: 10px;
}
.band strong {
  font-weight: 600;
}
.band span,
.person {
  color: var(--band-soft);
  font-size: 13.5px;
}
.person :deep(> button) {
  background: none;
  border: 0;
  cursor: pointer;
}
.band a {
  color: inherit;
  text-decoration: none;
}
.band a:hover {
  text-decoration: underline;
}
</style>
