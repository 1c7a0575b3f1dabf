package org.mnemex.service.definition;

import java.util.Comparator;
import org.mnemex.grammar.DefinitionKind;

/** Identifies a definition: names are unique within a kind. */
public record DefinitionId(DefinitionKind kind, String name) implements Comparable<DefinitionId> {
  private static final Comparator<DefinitionId> ORDER =
      Comparator.comparing(DefinitionId::kind).thenComparing(DefinitionId::name);

  @Override
  public int compareTo(DefinitionId other) {
    return ORDER.compare(this, other);
  }

  @Override
  public String toString() {
    return "%s '%s'".formatted(kind, name);
  }
}
