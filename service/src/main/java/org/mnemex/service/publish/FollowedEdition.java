package org.mnemex.service.publish;

import java.io.IOException;
import java.nio.file.Files;
import java.time.Instant;
import java.util.Set;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionCopy;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.schema.Schema;
import org.mnemex.publish.EditionManifest;
import org.mnemex.publish.EditionName;
import org.mnemex.publish.file.FilePool;
import org.mnemex.publish.file.PublishedFile;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.EditionDamagedException;
import org.mnemex.sync.edition.SearchedEdition;
import org.mnemex.sync.source.Position;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** The copy of an edition that is built elsewhere. */
final class FollowedEdition implements SearchedEdition {
  private static final JsonMapper JSON = JsonMapper.shared();
  private static final TypeReference<Set<String>> KEYS = new TypeReference<>() {};
  private static final String POSITION = "position";

  private final EditionName name;
  private final EditionCopy copy;
  private final Runnable onDamage;
  private volatile As as;
  private volatile Commit commit = new Commit("", null, Set.of());
  private volatile @Nullable String damage;

  /** What it is searched as. */
  private record As(IndexDefinition definition, int version) {}

  /**
   * What is known of the commit that is searched.
   *
   * @param state says which commit it is
   */
  private record Commit(String state, @Nullable Instant trueAt, Set<String> setAside) {}

  /**
   * @param onDamage told when a file turns out to be damaged
   */
  FollowedEdition(EditionName name, IndexDefinition definition, int version, Runnable onDamage) {
    this.name = name;
    this.onDamage = onDamage;
    this.as = new As(definition, version);
    this.copy = new EditionCopy(definition.schema());
  }

  EditionName name() {
    return name;
  }

  /** Whether its files can be read as a definition wants them. */
  boolean fits(IndexDefinition definition) {
    return definition.schema().fingerprint().equals(as.definition.schema().fingerprint());
  }

  /** Takes another version of its definition, which {@link #fits}. */
  void redefine(IndexDefinition definition, int version) {
    if (version != as.version || !definition.name().equals(as.definition.name())) {
      copy.redefine(definition.schema());
      as = new As(definition, version);
    }
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
      commit = new Commit(state, moment, commit.setAside);
      return;
    }
    Set<String> setAside = JSON.readValue(Files.readAllBytes(pool.path(keys)), KEYS);
    copy.take(pool.path(manifest.commit()), file -> pool.path(manifest.file(file)));
    commit = new Commit(state, moment, setAside);
  }

  @Override
  public int number() {
    return name.number();
  }

  @Override
  public int version() {
    return as.version;
  }

  @Override
  public IndexDefinition definition() {
    return as.definition;
  }

  @Override
  public <T extends @Nullable Object> T search(
      @Nullable Schema other, Function<SearchView, T> work) {
    try {
      return work.apply(other == null ? copy.view() : copy.view(other));
    } catch (DamagedFileException | InternalError e) {
      // InternalError: the file of a mapped region is gone.
      damage = String.valueOf(e.getMessage());
      onDamage.run();
      throw new EditionDamagedException(
          as.definition.name(), number(), "a file cannot be read; it is fetched again", e);
    }
  }

  @Override
  public String state() {
    return commit.state;
  }

  @Override
  public boolean isSetAside(String key) {
    return commit.setAside.contains(key);
  }

  @Override
  public @Nullable Instant trueAt() {
    return commit.trueAt;
  }

  @Override
  public @Nullable Position position() {
    String position = copy.snapshot().checkpoint().values().get(POSITION);
    return position == null ? null : Position.parse(position);
  }

  @Override
  public @Nullable String damage() {
    return damage;
  }
}
