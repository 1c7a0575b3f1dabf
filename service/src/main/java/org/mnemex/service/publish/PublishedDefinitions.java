package org.mnemex.service.publish;

import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.EditionName;
import org.mnemex.service.store.AccessKeyMapper.AccessKeyRow;
import org.mnemex.service.store.DefinitionRow;

/**
 * What search nodes need besides the files of editions. As JSON, part of the catalogue.
 *
 * @param indexes the indexes that answer
 * @param others endpoints with some earlier versions, the newest first, and what belongs to them
 * @param keys the keys of callers, with the hashes of their secrets
 * @param shared of the builder of shard 0: the current definitions that all builders need
 */
public record PublishedDefinitions(
    List<PublishedIndex> indexes,
    List<DefinitionRow> others,
    List<AccessKeyRow> keys,
    @Nullable List<DefinitionRow> shared) {
  public PublishedDefinitions {
    // An earlier version wrote none.
    shared = shared == null ? List.of() : List.copyOf(shared);
  }

  /**
   * An index that answers.
   *
   * @param row its definition, as the edition has it
   * @param edition number of the edition that answers
   */
  public record PublishedIndex(DefinitionRow row, int edition) {}

  /** The edition of an index at each builder; null if they do not all define it alike. */
  static @Nullable List<EditionName> names(
      PublishedIndex index, List<PublishedDefinitions> published) {
    List<EditionName> names = new ArrayList<>();
    for (PublishedDefinitions one : published) {
      one.indexes().stream()
          .filter(
              other ->
                  other.row().name().equals(index.row().name())
                      && other.row().text().equals(index.row().text())
                      && other.row().needs().equals(index.row().needs()))
          .forEach(other -> names.add(new EditionName(other.row().keptAs(), other.edition())));
    }
    return names.size() == published.size() ? names : null;
  }
}
