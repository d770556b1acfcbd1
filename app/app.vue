<script setup lang="ts">
useView()
</script>

<template>
  <div>
    <NuxtPage />
    <NoticeList />
  </div>
</template>
