package org.mnemex.service.install;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Locale;
import org.jspecify.annotations.Nullable;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.service.definition.DefinitionId;
import org.mnemex.sync.change.Cost;

/**
 * What applying a definition did.
 *
 * @param kind kind of the definition
 * @param name its name
 * @param change new, changed or same
 * @param version the version that is current now
 * @param cost what it took: at once, from stored or from database; null if there was nothing to do
 * @param edition the edition that is being filled because of it, or null
 */
public record Applied(
    DefinitionKind kind,
    String name,
    Change change,
    int version,
    @Nullable String cost,
    @Nullable Integer edition) {
  /** What happened to a definition. */
  public enum Change {
    NEW,
    CHANGED,
    SAME;

    @JsonValue
    @Override
    public String toString() {
      return name().toLowerCase(Locale.ROOT);
    }
  }

  DefinitionId id() {
    return new DefinitionId(kind, name);
  }

  /** The same with what was done to an index, if it is about that. */
  Applied of(IndexStep step, @Nullable Integer begun) {
    if (kind != DefinitionKind.INDEX || !name.equals(step.index().index().name())) {
      return this;
    }
    Cost took = step.cost();
    return new Applied(kind, name, change, version, took == null ? null : took.words(), begun);
  }
}
