<template>
  <main class="page">
    <div class="empty">
      <strong>There is no such page</strong>It may belong to a legal entity that you are not a member of.
      <RouterLink to="/">Go to your own</RouterLink>.
    </div>
  </main>
</template>
