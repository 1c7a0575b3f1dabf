import { speak } from "./texts/language";

// Texts in constants are in the language that is spoken when their file is read.
document.documentElement.lang = await speak(navigator.languages);
await import("./console");
