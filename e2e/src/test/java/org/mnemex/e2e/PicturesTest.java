package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.awt.image.BufferedImage;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.Test;

/** The pictures of the documents show something as it is now, and each of them is used. */
class PicturesTest {
  private static final Path FOLDER = RunningService.root().resolve("docs/screenshots");
  private static final int MAX_PICTURES = 20;

  private static List<Path> pictures() throws IOException {
    try (Stream<Path> files = Files.list(FOLDER)) {
      return files.filter(file -> file.toString().endsWith(".png")).sorted().toList();
    }
  }

  @Test
  void noneIsEmptyOrMostlyEmpty() throws IOException {
    assertThat(pictures()).isNotEmpty().hasSizeLessThan(MAX_PICTURES);
    for (Path picture : pictures()) {
      BufferedImage image = ImageIO.read(picture.toFile());
      assertThat(image).as(picture.toString()).isNotNull();
      Map<Integer, Integer> colours = new HashMap<>();
      int lastRow = 0;
      for (int y = 0; y < image.getHeight(); y++) {
        for (int x = 0; x < image.getWidth(); x++) {
          int colour = image.getRGB(x, y);
          colours.merge(colour, 1, Integer::sum);
          lastRow = colour == image.getRGB(0, 0) ? lastRow : y;
        }
      }
      assertThat(colours).as("colours of %s", picture).hasSizeGreaterThan(16);
      assertThat(lastRow)
          .as("the last line of %s in which something is drawn", picture)
          .isGreaterThan(image.getHeight() * 3 / 4);
    }
  }

  @Test
  void noneIsOlderThanWhatItShows() throws Exception {
    List<String> pictures = new ArrayList<>();
    for (String line : Files.readAllLines(FOLDER.resolve("made-from.txt"))) {
      String[] words = line.split(" ", 3);
      pictures.add(words[0]);
      byte[] source = Files.readAllBytes(RunningService.root().resolve(words[1]));
      assertThat(HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(source)))
          .as(
              "%s shows %s, which has changed since; look, and run docs/screenshots/make",
              words[0], words[1])
          .isEqualTo(words[2]);
    }
    assertThat(pictures)
        .containsExactlyInAnyOrderElementsOf(
            pictures().stream().map(picture -> String.valueOf(picture.getFileName())).toList());
  }

  @Test
  void eachIsShownInTheReadme() throws IOException {
    String readme = Files.readString(RunningService.root().resolve("README.md"));
    for (Path picture : pictures()) {
      assertThat(readme).contains("docs/screenshots/" + picture.getFileName());
    }
  }
}
