import { setNonce } from "get-nonce";

// Some primitives add style elements; the server names the nonce they need.
export const nonce = document.querySelector<HTMLMetaElement>("meta[property=csp-nonce]")?.nonce ?? "";
setNonce(nonce);
