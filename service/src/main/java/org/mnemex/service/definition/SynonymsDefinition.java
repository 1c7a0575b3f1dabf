package org.mnemex.service.definition;

import java.util.List;

/**
 * Words and phrases that mean the same to people who search.
 *
 * @param name name of the definition
 * @param rules as the engine reads them: {@code bog, marsh} or {@code usa, us => united states}
 */
public record SynonymsDefinition(String name, List<String> rules) {
  public SynonymsDefinition {
    rules = List.copyOf(rules);
  }
}
