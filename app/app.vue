<script setup lang="ts">
import { useView } from '~/document/view'
import NoticeList from '~/frame/NoticeList.vue'

useView()
</script>

<template>
  <div>
    <NuxtPage />
    <NoticeList />
  </div>
</template>
