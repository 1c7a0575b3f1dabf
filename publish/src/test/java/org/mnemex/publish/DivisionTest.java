package org.mnemex.publish;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.List;
import java.util.Objects;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.publish.store.FolderStore;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.publish.store.PrefixedStore;

/** The builders of a store agree on a number of shards, and keep to their own names. */
class DivisionTest {
  @TempDir private Path temp;

  private ObjectStore store;

  @BeforeEach
  void open() {
    store = new FolderStore(temp);
  }

  @Test
  void buildersThatBeginAtOnceAgree() throws Exception {
    try (ExecutorService builders = Executors.newFixedThreadPool(6)) {
      List<Callable<Void>> all =
          Stream.of(3, 3, 3, 4, 3, 4)
              .<Callable<Void>>map(
                  shards ->
                      () -> {
                        Division.agree(store, shards);
                        return null;
                      })
              .toList();
      long refused =
          builders.invokeAll(all).stream()
              .filter(one -> one.state() == Future.State.FAILED)
              .count();
      int shards = Objects.requireNonNull(Division.of(store)).shards();
      assertThat(refused).isEqualTo(shards == 3 ? 2 : 4);
    }
  }

  @Test
  void whatIsThereIsNotDividedLater() throws IOException {
    Division.agree(store, 1);
    assertThat(Division.of(store)).isNull();
    store.replace(Catalogue.OBJECT, new byte[0], null);
    assertThatThrownBy(() -> Division.agree(store, 2))
        .isInstanceOf(DividedOtherwiseException.class)
        .hasMessageContaining("is not divided, and this builder wants 2 shards");
    Division.agree(store, 1);
  }

  @Test
  void eachShardHasNamesOfItsOwn() throws IOException {
    ObjectStore first = new PrefixedStore(store, Division.prefix(0));
    ObjectStore second = new PrefixedStore(store, Division.prefix(1));
    first.put("files/a", "fern".getBytes(StandardCharsets.UTF_8));
    String tag = second.replace("catalogue", new byte[] {1}, null);
    assertThat(first.get("catalogue")).isNull();
    assertThat(second.getIfOther("catalogue", tag)).isNull();
    assertThat(first.names("files/")).containsExactly("files/a");
    assertThat(store.names("shards/"))
        .containsExactlyInAnyOrder("shards/0/files/a", "shards/1/catalogue");
    first.remove(List.of("files/a", "catalogue"));
    assertThat(store.names("shards/")).containsExactly("shards/1/catalogue");
    assertThat(second.place()).isEqualTo("shards/1 in " + temp);
  }
}
