<script setup lang="ts">
import { useView } from '~/document/view'
import NoticeList from '~/frame/NoticeList.vue'
import { i18n, language } from '~/parts/phrase'

useNuxtApp().vueApp.use(i18n)
useHead({ htmlAttrs: { lang: language } })
useView()
</script>

<template>
  <div>
    <NuxtPage />
    <NoticeList />
  </div>
</template>
