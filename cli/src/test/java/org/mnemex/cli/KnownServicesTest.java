package org.mnemex.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** The file with the services that somebody works with. */
class KnownServicesTest {
  private static final String FILE =
      """
      usual: garden
      services:
        garden: {url: http://127.0.0.1:7078}
        production: {url: https://search.example.org, key_file: production.key, ca_file: ca.pem}
      """;

  @TempDir private Path folder;

  private KnownServices read(String text) throws Exception {
    return KnownServices.read(Files.writeString(folder.resolve("services.yaml"), text));
  }

  @Test
  void aServiceHasAnAddressAndAKey() throws Exception {
    KnownServices known = read(FILE);
    assertThat(known.find("production"))
        .isEqualTo(
            new KnownServices.Known(
                URI.create("https://search.example.org"),
                folder.resolve("production.key"),
                folder.resolve("ca.pem")));
    assertThat(known.find(null))
        .isEqualTo(KnownServices.Known.at(URI.create("http://127.0.0.1:7078")));
    assertThat(read("services: {}").find(null)).isNull();
    assertThat(KnownServices.read(folder.resolve("nothing")).find(null)).isNull();
    assertThat(KnownServices.usualFile(Map.of("XDG_CONFIG_HOME", "/settings")))
        .isEqualTo(Path.of("/settings/mnemex/services.yaml"));
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      textBlock =
          """
          services: {a: {url: 'http://x'}}  | service 'test' is not in   | it has: a
          services: {}                      | service 'test' is not in   | it has: none
          services: [a]                     | services must be keys with values | 'Several services'
          usual: a                          | services must be keys with values | 'Several services'
          services: {test: {key_file: a}}   | service 'test' has no url  | services.yaml
          services: {test: {url: 'http://a b'}} | Illegal character      | http://a b
          services: {test: {url: 'http://a', key: b}} | test has no key 'key' | it has ca_file, key_file, url
          default: a                        | the file has no key 'default' | it has services, usual
          'a: ['                            | is not YAML                | services.yaml
          """)
  void whatIsWrongIsNamed(String text, String what, String more) {
    assertThatThrownBy(() -> read(text).find("test"))
        .isInstanceOf(IllegalArgumentException.class)
        .hasMessageContaining(what)
        .hasMessageContaining(more);
  }
}
