package org.mnemex.engine.schema;

import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.Analyser;

/**
 * One field of an index.
 *
 * @param name lower-case name, unique in the schema
 * @param type type of its values; every field may hold several
 * @param uses what it may be used for
 * @param fold exact fields only: match and sort without regard to case and accents
 * @param weight default weight in relevance, above 0
 * @param analyser text fields only: the chain for documents
 * @param queryAnalyser text fields only: the chain for queries
 */
public record Field(
    String name,
    FieldType type,
    Set<Use> uses,
    boolean fold,
    double weight,
    @Nullable Analyser analyser,
    @Nullable Analyser queryAnalyser) {

  public Field {
    uses = Set.copyOf(uses);
    if ((type == FieldType.TEXT) != (analyser != null && queryAnalyser != null)) {
      throw new IllegalArgumentException(
          "field '" + name + "': analysers belong to text fields, and to all of them");
    }
    if (type == FieldType.TEXT
        && (uses.contains(Use.FACET) || uses.contains(Use.SORT) || uses.contains(Use.FILTER))) {
      throw new IllegalArgumentException(
          "field '"
              + name
              + "': a text field cannot be used for facet, sort or filter; "
              + "add an exact field from the same column");
    }
    if (!(weight > 0)) {
      throw new IllegalArgumentException("field '" + name + "': weight must be above 0");
    }
  }

  /** A field with the same analyser for documents and queries, and weight 1. */
  public static Field of(String name, FieldType type, @Nullable Analyser analyser, Use... uses) {
    return new Field(name, type, Set.of(uses), false, 1, analyser, analyser);
  }

  /** Whether there is a dictionary of terms with postings. */
  public boolean hasTerms() {
    return type == FieldType.TEXT
        ? uses.contains(Use.SEARCH)
        : type == FieldType.EXACT
            && (uses.contains(Use.SEARCH) || uses.contains(Use.FILTER) || uses.contains(Use.FACET));
  }

  /** Whether values can be looked up by document, for facets, sorting and ranges. */
  public boolean hasColumn() {
    boolean compared =
        uses.contains(Use.FACET) || uses.contains(Use.SORT) || uses.contains(Use.FILTER);
    return type == FieldType.EXACT
        ? compared
        : type.isNumeric() && (compared || uses.contains(Use.RANK));
  }

  /** Whether the value itself is kept, to be shown or highlighted. */
  public boolean isStored() {
    return uses.contains(Use.SHOW)
        || uses.contains(Use.SUGGEST)
        || (type == FieldType.TEXT && uses.contains(Use.SEARCH));
  }

  /** Everything that decides how the index files of this field look. */
  public String signature() {
    StringBuilder out = new StringBuilder(name).append(' ').append(type.word());
    if (fold) {
      out.append(" fold");
    }
    out.append(hasTerms() ? " terms" : "")
        .append(hasColumn() ? " column" : "")
        .append(isStored() ? " stored" : "");
    if (analyser != null) {
      out.append(" [").append(analyser.signature()).append(']');
    }
    return out.toString();
  }
}
