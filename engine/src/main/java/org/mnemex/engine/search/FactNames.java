package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import org.mnemex.engine.schema.Field;

/** What facts are called, in every shard alike. */
final class FactNames {
  private FactNames() {}

  static String documents() {
    return "documents";
  }

  static String lengths(Field field) {
    return "lengths " + field.name();
  }

  static String term(Field field, byte[] term) {
    return "term " + field.name() + ' ' + new String(term, StandardCharsets.UTF_8);
  }

  static String terms(Field field, TermRule rule) {
    return "terms " + field.name() + ' ' + rule.name();
  }
}
