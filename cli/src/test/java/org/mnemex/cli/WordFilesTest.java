package org.mnemex.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class WordFilesTest {
  private static final String WORDS = "bog, marsh \"wet\"\nusa => états-unis\n";

  @TempDir private Path folder;

  @BeforeEach
  void write() throws IOException {
    Files.writeString(folder.resolve("words.txt"), WORDS);
  }

  private String inserted(String text) throws IOException {
    return WordFiles.inserted(text, folder.resolve("a.yaml"));
  }

  @Test
  void aFileStandsWhereItWasNamed() throws IOException {
    String text =
        """
        analyser: a
        tokeniser: words
        --- # 𝔘 beyond the first plane
        synonyms: one
        file: words.txt   # ours
        ---
        synonyms: two
        two_way: [[a, b]]
        file: "words.txt"
        """;
    String quoted = "lines: \"bog, marsh \\\"wet\\\"\\nusa => états-unis\\n\"";
    assertThat(inserted(text))
        .isEqualTo(
            text.replace("file: words.txt ", quoted + " ").replace("file: \"words.txt\"", quoted));
  }

  @Test
  void onlySynonymsNameFiles() throws IOException {
    String text = "source: garden\nkind: sqlite\nfile: words.txt\n";
    assertThat(inserted(text)).isEqualTo(text);
    assertThat(inserted("synonyms: [odd\nfile: words.txt")).startsWith("synonyms: [odd");
  }

  @Test
  void aMissingFileIsNamed() {
    assertThatThrownBy(() -> inserted("synonyms: one\nfile: none.txt\n"))
        .isInstanceOf(IOException.class)
        .hasMessageContaining("a.yaml names none.txt, which does not exist");
  }
}
