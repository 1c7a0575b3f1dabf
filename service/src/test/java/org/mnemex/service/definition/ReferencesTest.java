package org.mnemex.service.definition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.grammar.ParsedFile;
import org.mnemex.sync.definition.SourceDefinition;

/** A definition reaches only the variables and files that the operator allows. */
class ReferencesTest {
  private static final Map<String, String> ENVIRONMENT =
      Map.of(
          "PATH", "/usr/bin:/bin",
          "MNEMEX_KEY", "the-service-key",
          "MNEMEX_TOKENS_SECRET", "the-signing-secret",
          "MNEMEX_HOST", "db.example",
          "MNEMEX_EVIL", "127.0.0.1:7999/db?user=x&a=",
          "MNEMEX_PASSWORD", "hunter2-hunter2");

  @TempDir private Path folder;
  private Path allowed;
  private DefinitionReader reader;

  @BeforeEach
  void folders() throws IOException {
    allowed = Files.createDirectory(folder.resolve("allowed"));
    Files.writeString(folder.resolve("other.txt"), "another secret");
    Files.writeString(allowed.resolve("password"), "hunter2\n");
    Files.createSymbolicLink(allowed.resolve("link"), folder.resolve("other.txt"));
    Files.createDirectory(allowed.resolve("directory"));
    Files.write(allowed.resolve("large"), new byte[20 << 10]);
    reader =
        new DefinitionReader(
            new References(ENVIRONMENT::get, List.of("MNEMEX_*"), List.of(allowed)));
  }

  private SourceDefinition source(String more) {
    String yaml = "source: nursery\nkind: postgres\ndatabase: nursery\nuser: mnemex\n" + more;
    return ((Definition.OfSource)
            reader
                .read(ParsedFile.read("f.yaml", yaml).orThrow().getFirst(), Vocabulary.BUILT_IN)
                .content())
        .source();
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '"',
      value = {
        "port: ${PATH}|may not refer to environment variable PATH; allowed are MNEMEX_*",
        "host: ${PATH}|may not refer to environment variable PATH",
        "password: ${MNEMEX_KEY}|may not refer to environment variable MNEMEX_KEY",
        "password: ${MNEMEX_TOKENS_SECRET}|may not refer to environment variable MNEMEX_TOKENS",
        "password: ${MNEMEX_FIRSTKEY}|may not refer to environment variable MNEMEX_FIRSTKEY",
        "password: ${MNEMEX_FIRST_KEY}|may not refer to environment variable MNEMEX_FIRST_KEY",
        "password: ${MNEMEX_NONE}|MNEMEX_NONE is not set",
        "port: ${MNEMEX_PASSWORD}|'${MNEMEX_PASSWORD}' is not a port from 1 to 65535",
        "host: ${MNEMEX_EVIL}|'${MNEMEX_EVIL}' is not a host name or an address",
        "host: 127.0.0.1:7999/db?user=x&a=|is not a host name or an address",
        "host: a b|is not a host name or an address",
      })
  void refusesWithoutSayingTheValue(String line, String reason) {
    assertThatThrownBy(() -> source(line + "\n"))
        .isInstanceOf(DefinitionException.class)
        .hasMessageContaining(reason)
        .satisfies(
            e ->
                assertThat(e.getMessage())
                    .doesNotContain("/usr/bin", "hunter2", "the-service-key", "the-signing"));
  }

  @ParameterizedTest
  @CsvSource({
    "/etc/hostname,outside the folders",
    "FOLDER/../other.txt,outside the folders",
    "FOLDER/link,outside the folders",
    "/dev/zero,outside the folders",
    "FOLDER/none,does not exist",
    "FOLDER/directory,not a regular file",
    "FOLDER/large,more than 16",
  })
  void refusesFilesElsewhere(String file, String reason) {
    String path = file.replace("FOLDER", allowed.toString());
    assertThatThrownBy(() -> source("password_file: " + path + "\n"))
        .isInstanceOf(DefinitionException.class)
        .hasMessageContaining(reason);
  }

  @Test
  void resolvesWhatIsAllowedAndMasksIt() {
    SourceDefinition.Server server =
        (SourceDefinition.Server)
            source("host: ${MNEMEX_HOST}\npassword_file: " + allowed.resolve("password") + "\n");
    assertThat(server.host()).isEqualTo("db.example");
    assertThat(server.password().reveal()).isEqualTo("hunter2");
    assertThat(server.masks().mask("connection to db.example refused"))
        .isEqualTo("connection to ${MNEMEX_HOST} refused");
  }
}
