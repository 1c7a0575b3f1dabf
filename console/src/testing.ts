import { configure } from "@testing-library/react";
import { speak } from "./texts/language";

await speak(["en"]);

// Other tests run on the same machine; a page may take seconds there that it never takes alone.
configure({ asyncUtilTimeout: 20_000 });
