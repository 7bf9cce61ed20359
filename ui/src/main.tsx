import "./index.css";
import "./nonce";
import { kept, speak } from "./language";

// Texts are looked up as the code is read: the language comes first.
void speak(kept()).then(() => import("./app/start"));
