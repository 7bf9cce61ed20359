import "./index.css";
import "./nonce";
import "./language"; // the desk speaks English; texts are looked up as the code is read

void import("./app/start");
