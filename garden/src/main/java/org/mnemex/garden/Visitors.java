package org.mnemex.garden;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Random;
import java.util.random.RandomGenerator;

/**
 * What visitors of the garden's website search for: some things often, most things rarely (a
 * harmonic distribution, as of words in texts), autumn before spring, and three things that the
 * garden does not help them with: another word for standing water, a common misspelling, and the
 * opening hours.
 */
public final class Visitors {
  /** Means standing water, which the garden calls it. */
  public static final String OTHER_WORD = "waterlogged";

  /** Means vigorous. */
  public static final String MISSPELT = "vigourous";

  /** Is in no record. */
  public static final String NOT_THERE = "opening hours";

  /** Of these, visitors open what stands far down. */
  public static final String FAR_DOWN = "sage";

  /** Of these, visitors open nothing. */
  public static final String NEVER_OPENED = "heath";

  private static final long ORDER = 20;
  private static final int FAR = 8;
  private static final int DEEPEST = 12;

  private final List<String> words = new ArrayList<>();
  private final double[] upTo;

  /**
   * What one visitor searches for.
   *
   * @param words what is typed
   * @param chosen values by facet
   * @param opens the place of the result to open, if there are so many; 0 for none
   */
  public record Visit(String words, Map<String, String> chosen, int opens) {}

  public Visitors() {
    for (String[] genus : Vocabulary.GENERA) {
      words.add(genus[2]);
      for (String[] epithet : Vocabulary.EPITHETS) {
        words.add(epithet[1] + " " + genus[2]);
      }
    }
    for (List<String> list :
        List.of(Vocabulary.PLACES, Vocabulary.CAUSES, Vocabulary.BEDS, Vocabulary.LABELS)) {
      words.addAll(list);
    }
    // Whatever is often asked for is asked for often everywhere.
    Collections.shuffle(words, new Random(ORDER));
    upTo = new double[words.size()];
    double sum = 0;
    for (int i = 0; i < upTo.length; i++) {
      sum += 1.0 / (i + 3);
      upTo[i] = sum;
    }
  }

  /**
   * A visit.
   *
   * @param season 0 for autumn to 1 for spring
   */
  public Visit visit(double season, RandomGenerator random) {
    String asked = asked(season, random);
    boolean narrows = random.nextInt(12) == 0;
    return new Visit(
        random.nextInt(5) == 0 ? asked.toUpperCase(Locale.ROOT) : asked,
        narrows
            ? Map.of("bed", Vocabulary.BEDS.get(random.nextInt(Vocabulary.BEDS.size())))
            : Map.of(),
        opens(asked, random));
  }

  private String asked(double season, RandomGenerator random) {
    int at = random.nextInt(1000);
    if (at < 8) {
      return OTHER_WORD;
    } else if (at < 14) {
      return MISSPELT;
    } else if (at < 24) {
      return NOT_THERE;
    } else if (at < 34) {
      return FAR_DOWN;
    } else if (at < 42) {
      return NEVER_OPENED;
    } else if (at < 142) {
      String genus = Vocabulary.GENERA.get(random.nextInt(8))[2];
      return (random.nextDouble() < season ? "spring " : "autumn ") + genus;
    } else if (at < 150) {
      return Garden.number(1 + random.nextInt(Garden.USUAL_ACCESSIONS));
    }
    double one = random.nextDouble() * upTo[upTo.length - 1];
    int place = Arrays.binarySearch(upTo, one);
    return words.get(Math.min(words.size() - 1, place < 0 ? -place - 1 : place));
  }

  private static int opens(String asked, RandomGenerator random) {
    if (asked.equals(NEVER_OPENED) || random.nextInt(5) < 2) {
      return 0;
    }
    if (asked.equals(FAR_DOWN)) {
      return FAR + random.nextInt(DEEPEST - FAR);
    }
    int place = 1;
    while (place < DEEPEST && random.nextInt(3) == 0) {
      place++;
    }
    return place;
  }
}
