// Everything that every page has; each behaviour is a module of its own, loaded once.
import "./keys.js";
import "./outbox.js";
import "./follow.js";
import "./readings.js";
