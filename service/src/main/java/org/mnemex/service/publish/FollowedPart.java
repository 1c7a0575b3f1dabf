package org.mnemex.service.publish;

import java.io.IOException;
import java.nio.file.Files;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionCopy;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.schema.Schema;
import org.mnemex.publish.EditionManifest;
import org.mnemex.publish.EditionName;
import org.mnemex.publish.file.FilePool;
import org.mnemex.publish.file.PublishedFile;
import org.mnemex.service.shard.Held;
import org.mnemex.sync.source.Position;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** The copy of what one builder has built of an edition. */
final class FollowedPart {
  private static final JsonMapper JSON = JsonMapper.shared();
  private static final TypeReference<Set<String>> KEYS = new TypeReference<>() {};
  private static final String POSITION = "position";

  /** Other nodes may go on for so long with what they have begun with. */
  private static final Duration KEPT = Duration.ofSeconds(10);

  private final EditionName name;
  private final int shard;
  private final EditionCopy copy;
  private final Deque<Kept> kept = new ArrayDeque<>();
  private volatile Commit commit = new Commit("", null, Set.of(), null);

  /**
   * What is known of the commit that is searched.
   *
   * @param state says which commit it is
   */
  record Commit(
      String state, @Nullable Instant trueAt, Set<String> setAside, @Nullable Position position) {}

  /**
   * A commit as other nodes may ask for it.
   *
   * @param edition what it is searched as
   * @param since when it was new, by {@link System#nanoTime}
   */
  record Kept(List<String> edition, String state, SearchView view, long since) {}

  /**
   * @param shard number of the builder, from 0
   */
  FollowedPart(EditionName name, int shard, Schema schema) {
    this.name = name;
    this.shard = shard;
    this.copy = new EditionCopy(schema);
  }

  EditionName name() {
    return name;
  }

  int shard() {
    return shard;
  }

  Commit commit() {
    return commit;
  }

  void redefine(Schema schema) {
    copy.redefine(schema);
  }

  /** The snapshot of this moment, read with another schema of the same files if one is given. */
  SearchView view(@Nullable Schema other) {
    return other == null ? copy.view() : copy.view(other);
  }

  /**
   * Moves on to a commit.
   *
   * @param pool has all files of the manifest
   * @throws DamagedFileException if a file is not what it should be
   */
  void take(EditionManifest manifest, FilePool pool) throws IOException {
    PublishedFile keys = manifest.file(EditionManifest.SET_ASIDE);
    String state = manifest.commit().content() + " " + keys.content();
    String trueAt = manifest.state().trueAt();
    Instant moment = trueAt == null ? null : Instant.parse(trueAt);
    if (state.equals(commit.state)) {
      commit =
          new Commit(
              state, moment, commit.setAside, later(manifest.state().position(), commit.position));
      return;
    }
    Set<String> setAside = JSON.readValue(Files.readAllBytes(pool.path(keys)), KEYS);
    copy.take(pool.path(manifest.commit()), file -> pool.path(manifest.file(file)));
    // Read here, as each search tells it.
    String position = copy.snapshot().checkpoint().values().get(POSITION);
    commit =
        new Commit(
            state,
            moment,
            setAside,
            later(manifest.state().position(), position == null ? null : Position.parse(position)));
  }

  /** The position that was told, unless what is in the files is as far or of another history. */
  private static @Nullable Position later(@Nullable String told, @Nullable Position other) {
    Position position = told == null ? null : Position.parse(told);
    return position != null && (other == null || position.reaches(other)) ? position : other;
  }

  /** Keeps the snapshot of this moment for other nodes. */
  synchronized void keep(List<String> edition, Schema schema) {
    String state = commit.state;
    if (state.isEmpty()) {
      // Nothing has been taken yet.
      return;
    }
    if (kept.stream().noneMatch(one -> one.edition.equals(edition) && one.state.equals(state))) {
      kept.addFirst(new Kept(edition, state, copy.view(schema), System.nanoTime()));
    }
    long oldest = System.nanoTime() - KEPT.toNanos();
    List<Kept> last = new ArrayList<>();
    for (Kept one : kept) {
      boolean isLast = last.stream().noneMatch(other -> other.edition.equals(one.edition));
      if (isLast || one.since > oldest) {
        last.add(one);
      }
    }
    kept.clear();
    kept.addAll(last);
  }

  /** What other nodes may ask for. */
  synchronized @Nullable Held held(String index, List<String> edition) {
    Commit now = commit;
    return kept.stream()
        .filter(one -> one.edition.equals(edition) && one.state.equals(now.state))
        .findFirst()
        .map(
            one ->
                new Held(
                    index,
                    edition,
                    shard,
                    one.state,
                    now.trueAt,
                    now.position == null ? null : now.position.toString(),
                    now.setAside))
        .orElse(null);
  }

  /** The last commit that was kept of what an edition is searched as. */
  synchronized Kept last(List<String> edition) {
    return kept.stream().filter(one -> one.edition.equals(edition)).findFirst().orElseThrow();
  }

  /** A commit that was kept; null if it was not, or not until now. */
  synchronized @Nullable SearchView kept(List<String> edition, String state) {
    return kept.stream()
        .filter(one -> one.edition.equals(edition) && one.state.equals(state))
        .findFirst()
        .map(Kept::view)
        .orElse(null);
  }
}
