package org.mnemex.service.publish;

import java.io.IOException;
import java.nio.file.Files;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionCopy;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.document.Checkpoint;
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

/**
 * The copy of an edition that is built elsewhere: one part from each builder, searched as one. Each
 * builder counts its editions for itself; the number is that of the first.
 */
final class FollowedEdition implements SearchedEdition {
  private static final JsonMapper JSON = JsonMapper.shared();
  private static final TypeReference<Set<String>> KEYS = new TypeReference<>() {};
  private static final String POSITION = "position";

  private final List<Part> parts = new ArrayList<>();
  private final Runnable onDamage;
  private volatile As as;
  private volatile @Nullable String damage;

  /** What it is searched as. */
  private record As(IndexDefinition definition, int version) {}

  /**
   * What is known of the commit that is searched.
   *
   * @param state says which commit it is
   */
  private record Commit(
      String state, @Nullable Instant trueAt, Set<String> setAside, @Nullable Position position) {}

  /** What one builder has built. */
  private static final class Part {
    private final EditionName name;
    private final EditionCopy copy;
    private volatile Commit commit = new Commit("", null, Set.of(), null);

    Part(EditionName name, Schema schema) {
      this.name = name;
      this.copy = new EditionCopy(schema);
    }
  }

  /**
   * @param names of the edition at each builder
   * @param onDamage told when a file turns out to be damaged
   */
  FollowedEdition(
      List<EditionName> names, IndexDefinition definition, int version, Runnable onDamage) {
    this.onDamage = onDamage;
    this.as = new As(definition, version);
    names.forEach(name -> parts.add(new Part(name, definition.schema())));
  }

  /** What it is called at each builder. */
  List<EditionName> names() {
    return parts.stream().map(part -> part.name).toList();
  }

  /** Whether its files can be read as a definition wants them. */
  boolean fits(IndexDefinition definition) {
    return definition.schema().fingerprint().equals(as.definition.schema().fingerprint());
  }

  /** Takes another version of its definition, which {@link #fits}. */
  void redefine(IndexDefinition definition, int version) {
    if (version != as.version || !definition.name().equals(as.definition.name())) {
      parts.forEach(part -> part.copy.redefine(definition.schema()));
      as = new As(definition, version);
    }
  }

  /**
   * Moves on to a commit of one builder.
   *
   * @param builder which one, from 0
   * @param pool has all files of the manifest
   * @throws DamagedFileException if a file is not what it should be
   */
  void take(int builder, EditionManifest manifest, FilePool pool) throws IOException {
    Part part = parts.get(builder);
    PublishedFile keys = manifest.file(EditionManifest.SET_ASIDE);
    String state = manifest.commit().content() + " " + keys.content();
    String trueAt = manifest.state().trueAt();
    Instant moment = trueAt == null ? null : Instant.parse(trueAt);
    if (state.equals(part.commit.state)) {
      part.commit = new Commit(state, moment, part.commit.setAside, part.commit.position);
      return;
    }
    Set<String> setAside = JSON.readValue(Files.readAllBytes(pool.path(keys)), KEYS);
    part.copy.take(pool.path(manifest.commit()), file -> pool.path(manifest.file(file)));
    // Read here, as each search tells it.
    String position = part.copy.snapshot().checkpoint().values().get(POSITION);
    part.commit =
        new Commit(state, moment, setAside, position == null ? null : Position.parse(position));
  }

  @Override
  public int number() {
    return parts.getFirst().name.number();
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
      return work.apply(view(other));
    } catch (DamagedFileException | InternalError e) {
      // InternalError: the file of a mapped region is gone.
      damage = String.valueOf(e.getMessage());
      onDamage.run();
      throw new EditionDamagedException(
          as.definition.name(), number(), "a file cannot be read; it is fetched again", e);
    }
  }

  private SearchView view(@Nullable Schema other) {
    if (parts.size() == 1) {
      return view(parts.getFirst(), other);
    }
    // Before the views, which may include more.
    Position position = position();
    return SearchView.of(
        parts.stream().map(part -> view(part, other)).toList(),
        position == null ? Checkpoint.NONE : new Checkpoint(Map.of(POSITION, position.toString())));
  }

  private static SearchView view(Part part, @Nullable Schema other) {
    return other == null ? part.copy.view() : part.copy.view(other);
  }

  @Override
  public String state() {
    return parts.stream().map(part -> part.commit.state).collect(Collectors.joining(" "));
  }

  @Override
  public boolean isSetAside(String key) {
    return parts.stream().anyMatch(part -> part.commit.setAside.contains(key));
  }

  @Override
  public @Nullable Instant trueAt() {
    Instant least = Instant.MAX;
    for (Part part : parts) {
      Instant trueAt = part.commit.trueAt;
      if (trueAt == null) {
        return null;
      }
      least = trueAt.isBefore(least) ? trueAt : least;
    }
    return least;
  }

  /** The least of all parts; null if they cannot be compared. */
  @Override
  public @Nullable Position position() {
    Position least = parts.getFirst().commit.position;
    for (Part part : parts) {
      Position position = part.commit.position;
      if (least == null || position == null || !position.history().equals(least.history())) {
        return null;
      }
      least = least.reaches(position) ? position : least;
    }
    return least;
  }

  @Override
  public @Nullable String damage() {
    return damage;
  }
}
