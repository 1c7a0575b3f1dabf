package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.io.RandomAccessFile;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.engine.error.NewerFormatException;
import org.mnemex.sync.Plants;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.sqlite.SqliteSource;

/** What happens to the files of an edition, while it is in use and while it is not. */
class DamagedEditionTest {
  /** So many that each segment is larger than a page: what is cut off within a page reads as 0. */
  private static final int PLANTS = 3000;

  @TempDir private Path folder;
  private Path file;
  private Follower follower;

  @BeforeEach
  void start() throws Exception {
    file = folder.resolve("garden.db");
    run("CREATE TABLE plant (id INTEGER PRIMARY KEY, name TEXT)");
    run(
        "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < %d) INSERT INTO plant SELECT i, 'fern ' || i FROM n"
            .formatted(PLANTS));
    follower =
        Follower.start(
            Plants.DEFINITION,
            new SqliteSource(
                new SourceDefinition.Sqlite("garden", file, SourceDefinition.Following.PREPARING)),
            folder.resolve("index"));
  }

  @AfterEach
  void close() {
    follower.close();
  }

  private void run(String sql) throws SQLException {
    try (Connection connection =
            DriverManager.getConnection("jdbc:sqlite:" + file + "?busy_timeout=10000");
        Statement statement = connection.createStatement()) {
      statement.execute(sql);
    }
  }

  private List<Path> files(int edition, String prefix) throws IOException {
    try (Stream<Path> files = Files.list(folder.resolve("index/edition-" + edition))) {
      return files
          .filter(path -> path.getFileName().toString().startsWith(prefix))
          .sorted(Comparator.comparing(path -> path.getFileName().toString()))
          .toList();
    }
  }

  @Test
  void anEditionWhoseFolderHasGoneIsBuiltAnew() throws Exception {
    follower.stop();
    Edition.deleteFolder(folder.resolve("index/edition-1"));
    follower.restart();
    // It does not answer as if there were no records.
    assertThat(follower.editions().live()).isNull();
    follower.build();
    follower.awaitTruth(2);
    assertThat(follower.documents()).isEqualTo(PLANTS);
  }

  @Test
  void anEditionWithoutManifestsIsBuiltAnew() throws Exception {
    follower.stop();
    for (Path manifest : files(1, "manifest-")) {
      Files.delete(manifest);
    }
    follower.restart();
    assertThat(follower.editions().live()).isNull();
    follower.build();
    follower.awaitTruth(2);
  }

  @Test
  void whatADamagedManifestHadIsReadAgain() throws Exception {
    run("UPDATE plant SET name = 'changed' WHERE id < 20");
    follower.awaitTrue();
    follower.stop();
    List<Path> manifests =
        files(1, "manifest-").stream()
            .sorted(
                Comparator.comparingInt(p -> Integer.parseInt(p.toString().replaceAll(".*-", ""))))
            .toList();
    assertThat(manifests).hasSizeGreaterThan(1);
    try (RandomAccessFile newest = new RandomAccessFile(manifests.getLast().toFile(), "rw")) {
      newest.seek(30);
      newest.write(0xFF);
    }
    follower.restart();
    assertThat(follower.live().folder().passedOver().getFirst()).contains("its bytes have changed");
    follower.awaitTruth(1);
  }

  @Test
  void aFileThatIsCutWhileItIsInUseIsNoticedAndTheEditionReplaced() throws Exception {
    Edition damaged = follower.live();
    Follower.await(
        () -> {
          // A merge may just have replaced them.
          cutSegments();
          try {
            damaged.read(
                () -> {
                  damaged.folder().snapshot().forEachHash((key, hash) -> {});
                  return damaged.folder().snapshot().document("7");
                });
            return false;
          } catch (EditionDamagedException e) {
            return true;
          }
        });
    Follower.await(() -> damaged.damage() != null);
    assertThat(damaged.damage()).contains("cut short");
    // Nobody has to agree to an edition in the place of one that cannot answer.
    follower.awaitTruth(2);
    assertThat(follower.documents()).isEqualTo(PLANTS);
    assertThatThrownBy(() -> damaged.read(() -> 1)).isInstanceOf(EditionDamagedException.class);
  }

  private void cutSegments() {
    try {
      for (Path segment : files(1, "seg-")) {
        try (RandomAccessFile cut = new RandomAccessFile(segment.toFile(), "rw")) {
          cut.setLength(100);
        }
      }
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  @Test
  void bytesThatChangeWhileItIsNotInUseAreFoundAlthoughNobodyReadsThem() throws Exception {
    follower.stop();
    Path segment = files(1, "seg-").getFirst();
    try (RandomAccessFile changed = new RandomAccessFile(segment.toFile(), "rw")) {
      changed.seek(changed.length() / 2);
      int old = changed.read();
      changed.seek(changed.length() / 2);
      changed.write(~old);
    }
    follower.restart();
    // Nobody waits for the comparison of all files.
    Follower.await(() -> follower.editions().live().number() == 2);
    follower.awaitTruth(2);
    assertThat(follower.documents()).isEqualTo(PLANTS);
  }

  @Test
  void filesOfANewerVersionAreKept() throws Exception {
    follower.stop();
    Path segment = files(1, "seg-").getFirst();
    try (RandomAccessFile newer = new RandomAccessFile(segment.toFile(), "rw")) {
      version(newer, 2);
    }
    assertThatThrownBy(() -> follower.restart())
        .isInstanceOf(NewerFormatException.class)
        .hasMessageContaining("format version 2")
        .hasMessageContaining("reads format versions up to 1")
        .hasMessageContaining("nothing has changed");
    assertThat(segment).exists();
    try (RandomAccessFile older = new RandomAccessFile(segment.toFile(), "rw")) {
      version(older, 1);
    }
    follower.restart();
    follower.awaitTruth(1);
  }

  private static void version(RandomAccessFile segment, int version) throws IOException {
    segment.seek(8);
    segment.write(version);
    segment.seek(segment.length() - 12);
    segment.write(version);
  }
}
