import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'shelf', component: () => import('./jobs/JobsShelf.vue') },
    { path: '/jobs/:jobId', name: 'job', component: () => import('./jobs/JobView.vue'), props: true },
    { path: '/deliveries', name: 'deliveries', component: () => import('./deliveries/DeliveriesPage.vue') },
    { path: '/cards', name: 'cards', component: () => import('./cards/CardsPage.vue') },
    { path: '/settings', name: 'settings', component: () => import('./settings/SettingsPage.vue') },
    { path: '/engines', name: 'engines', component: () => import('./engines/EngineShelf.vue') },
    {
      path: '/jobs/:jobId/pictures/:pictureId/:takeId?',
      name: 'bench',
      component: () => import('./bench/Bench.vue'),
      props: true,
    },
    { path: '/:any(.*)*', redirect: '/' },
  ],
})
