package org.mnemex.service.shard;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class PlacementTest {
  @TempDir private Path folder;

  private Placement read(String text) throws IOException {
    return Placement.read(Files.writeString(folder.resolve("placement.yaml"), text));
  }

  @Test
  void saysWhichNodeHasWhichShards() throws IOException {
    Placement placement =
        read(
            """
            nodes:
              - {name: north, url: "http://north.example:7077", shards: [1, 0]}
              - name: front
                url: https://front.example
                shards: []
            """);
    assertThat(placement.of("north")).containsExactlyInAnyOrder(0, 1);
    assertThat(placement.of("front")).isEmpty();
    assertThat(placement.of("somewhere else")).isEmpty();
    assertThat(placement.nodes().getLast().url()).isEqualTo(URI.create("https://front.example"));
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      textBlock =
          """
          ''                                                      | a YAML map with the key 'nodes'
          '[1]'                                                   | a YAML map with the key 'nodes'
          '{nodes: [], node: []}'                                 | no key 'node'
          '{}'                                                    | it has no 'nodes'
          'nodes: [{name: a, url: "http://a"}]'                   | has 'name', 'url' and 'shards'
          'nodes: [{name: a, url: a.example, shards: [0]}]'       | url of node 'a'
          'nodes: [{name: a, url: "file:///etc", shards: [0]}]'   | url of node 'a'
          'nodes: [{name: a, url: "http://a", shards: [-1]}]'     | shards count from 0
          'nodes: [{name: a, url: "http://a", shards: [0], on: 1}]' | no key 'on'
          'nodes: [{name: a, url: "http://a", shards: [0]},
            {name: a, url: "http://b", shards: [1]}]'             | there are two nodes 'a'
          'nodes: ['                                              | is not valid
          """)
  void refusesWhatIsNone(String text, String why) {
    assertThatThrownBy(() -> read(text))
        .isInstanceOf(IOException.class)
        .hasMessageContaining("placement.yaml")
        .hasMessageContaining(why);
  }

  @Test
  void saysThatItCannotBeRead() {
    assertThatThrownBy(() -> Placement.read(folder.resolve("nowhere.yaml")))
        .hasMessageContaining("nowhere.yaml")
        .hasMessageContaining("cannot be read");
  }
}
