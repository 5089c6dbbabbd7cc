import Alpine from "@alpinejs/csp";
import { photo } from "./photo.js";
import { shot } from "./shot.js";
import { start } from "./start.js";

Alpine.data("photo", photo);
Alpine.data("shot", shot);
Alpine.data("start", start);
document.documentElement.dataset.theme = localStorage.getItem("theme") || "dusk";
window.addEventListener("DOMContentLoaded", () => Alpine.start());
