<script setup lang="ts">
import { useView } from '~/document/view'
import NoticeList from '~/frame/NoticeList.vue'
import { speakEnglish } from '~~/core/words/say'

speakEnglish()
useView()
</script>

<template>
  <div>
    <NuxtPage />
    <NoticeList />
  </div>
</template>
