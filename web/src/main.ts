import "@fontsource/atkinson-hyperlegible/400.css";
import "@fontsource/atkinson-hyperlegible/700.css";
import "primeicons/primeicons.css";
import "./styles.css";
import { createPinia } from "pinia";
import PrimeVue from "primevue/config";
import ToastService from "primevue/toastservice";
import { createApp } from "vue";
import App from "./App.vue";
import { Kit } from "./audio/kit";
import { Pieces } from "./audio/pieces";
import { Recording } from "./audio/recording";
import { Transport } from "./audio/transport";
import { router } from "./router";
import { breath, clicks, countIn } from "./score/clicks";
import { countedAloud } from "./score/count";
import { eventsOf } from "./score/sounding";
import { Clock } from "./score/time";
import { preset } from "./theme";

// The sound of the page as the tests render it, sample by sample, without a loudspeaker.
Object.assign(window, {
  orchesisSound: { Clock, Kit, Pieces, Recording, Transport, breath, clicks, countedAloud, countIn, eventsOf },
});

createApp(App)
  .use(createPinia())
  .use(router)
  .use(PrimeVue, { theme: { preset, options: { darkModeSelector: ".dark" } } })
  .use(ToastService)
  .mount("#app");
