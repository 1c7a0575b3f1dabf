package org.mnemex.service.publish;

import java.io.IOException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.publish.Catalogue;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.publish.store.StoredObject;
import org.mnemex.service.compute.Repeated;
import org.mnemex.service.install.DefinitionFile;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.publish.PublishedDefinitions.PublishedIndex;
import org.mnemex.service.store.DefinitionMapper;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.edition.Editions;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import tools.jackson.databind.json.JsonMapper;

/**
 * Takes over what is applied, promoted and rolled back at the builder of shard 0, on the builder of
 * another shard. What is removed there stays here until somebody removes it here, too.
 */
final class SharedDefinitions implements AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(SharedDefinitions.class);
  private static final Duration PAUSE = Duration.ofSeconds(1);
  private static final String AUTHOR = "the builder of shard 0";

  private final Installation installation;
  private final DefinitionMapper definitions;
  private final JsonMapper json;
  private final ObjectStore first;
  private final Repeated taking;
  private @Nullable Seen seen;

  /** What was last taken over, and its tag in the store. */
  private record Seen(String tag, PublishedDefinitions offered) {}

  /**
   * @param first what the builder of shard 0 writes
   */
  SharedDefinitions(
      Installation installation, DefinitionMapper definitions, JsonMapper json, ObjectStore first) {
    this.installation = installation;
    this.definitions = definitions;
    this.json = json;
    this.first = first;
    this.taking = new Repeated("taking definitions over", () -> PAUSE, this::take);
  }

  /** Which definitions a builder needs to build indexes. */
  static boolean areNeeded(DefinitionKind kind) {
    return kind.compareTo(DefinitionKind.INDEX) <= 0;
  }

  private boolean take() throws IOException {
    Seen before = seen;
    StoredObject found =
        before == null
            ? first.get(Catalogue.OBJECT)
            : first.getIfOther(Catalogue.OBJECT, before.tag);
    Seen now = found == null ? before : read(found);
    if (now == null) {
      return false;
    }
    try {
      if (found != null) {
        apply(now.offered.shared());
        seen = now;
      }
      now.offered.indexes().forEach(this::promote);
    } catch (DefinitionException | ProblemException e) {
      throw new IOException(
          "what is defined at %s cannot be taken over: %s".formatted(AUTHOR, e.getMessage()), e);
    }
    return true;
  }

  /** Null if nothing is offered yet. */
  private @Nullable Seen read(StoredObject object) throws IOException {
    String service = Catalogue.read(object).content().service();
    return service.isEmpty()
        ? null
        : new Seen(object.tag(), json.readValue(service, PublishedDefinitions.class));
  }

  private void apply(List<DefinitionRow> rows) {
    List<DefinitionRow> own = definitions.current();
    List<DefinitionRow> other = new ArrayList<>();
    for (DefinitionRow row : rows) {
      if (own.stream().noneMatch(one -> isSame(one, row)) && !rollBack(row)) {
        other.add(row);
      }
    }
    if (!other.isEmpty()) {
      // All of them, as they may refer to one another.
      installation.apply(
          rows.stream().map(row -> new DefinitionFile(row.file(), row.text())).toList(),
          new Installation.ApplyOptions(
              false, null, other.stream().anyMatch(DefinitionRow::hold), AUTHOR));
      LOG.info(
          "taken over from {}: {}", AUTHOR, other.stream().map(SharedDefinitions::id).toList());
    }
  }

  private static boolean isSame(DefinitionRow one, DefinitionRow other) {
    return id(one).equals(id(other)) && one.text().equals(other.text());
  }

  private static String id(DefinitionRow row) {
    return row.kind() + " " + row.name();
  }

  /** Goes back if the edition before has this definition. */
  private boolean rollBack(DefinitionRow row) {
    RunningIndex index = running(row);
    Edition former = index == null ? null : index.editions().former();
    if (former == null || !isOf(former, row)) {
      return false;
    }
    installation.rollback(row.name(), AUTHOR);
    return true;
  }

  /**
   * Promotes an edition that waits for approval, if it has been given there. One that is held as
   * something is wrong with it has to be looked at here.
   */
  private void promote(PublishedIndex live) {
    RunningIndex index = running(live.row());
    Edition next = index == null ? null : index.editions().next();
    if (next != null
        && next.entry().plan().hold()
        && Editions.FOR_APPROVAL.equals(index.editions().held())
        && isOf(next, live.row())) {
      installation.promote(live.row().name());
    }
  }

  private @Nullable RunningIndex running(DefinitionRow row) {
    return installation.running().indexes().get(row.name());
  }

  /** Whether an edition has a definition. */
  private boolean isOf(Edition edition, DefinitionRow row) {
    DefinitionRow own = definitions.version(DefinitionKind.INDEX, row.name(), edition.version());
    return row.kind() == DefinitionKind.INDEX && own != null && isSame(own, row);
  }

  /** Why nothing is taken over now, or null. */
  @Nullable String problem() {
    return taking.problem();
  }

  @Override
  public void close() {
    taking.close();
  }
}
