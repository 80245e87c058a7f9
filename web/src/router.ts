import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'shelf', component: () => import('./pages/JobsShelf.vue') },
    { path: '/jobs/:jobId', name: 'job', component: () => import('./pages/JobView.vue'), props: true },
    { path: '/deliveries', name: 'deliveries', component: () => import('./pages/DeliveriesPage.vue') },
    { path: '/cards', name: 'cards', component: () => import('./pages/CardsPage.vue') },
    { path: '/settings', name: 'settings', component: () => import('./pages/SettingsPage.vue') },
    { path: '/engines', name: 'engines', component: () => import('./pages/EngineShelf.vue') },
    {
      path: '/jobs/:jobId/pictures/:pictureId/:takeId?',
      name: 'bench',
      component: () => import('./bench/Bench.vue'),
      props: true,
    },
    { path: '/:any(.*)*', redirect: '/' },
  ],
})
