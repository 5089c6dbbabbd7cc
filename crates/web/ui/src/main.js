import Alpine from "@alpinejs/csp";
import { footage } from "./page/footage.js";
import { shotrow } from "./page/shotrow.js";
import { start } from "./page/start.js";
import { photo } from "./photo/page.js";

Alpine.data("photo", photo);
Alpine.data("shot", footage);
Alpine.data("shotrow", shotrow);
Alpine.data("start", start);
document.documentElement.dataset.theme = localStorage.getItem("theme") || "dusk";
window.addEventListener("DOMContentLoaded", () => Alpine.start());
