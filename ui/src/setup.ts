import "./language";
import { configure } from "@testing-library/dom";

// A test waits for what it looks for, not for a clock: a busy machine takes longer.
configure({ asyncUtilTimeout: 60_000 });

// jsdom has no Blob.text yet.
if (typeof Blob !== "undefined" && typeof FileReader !== "undefined" && !Blob.prototype.text)
  Blob.prototype.text = function (this: Blob) {
    return new Promise((done, failed) => {
      const r = new FileReader();
      r.onload = () => done(String(r.result));
      r.onerror = () => failed(r.error);
      r.readAsText(this);
    });
  };
