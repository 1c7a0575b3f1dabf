package org.mnemex.garden;

import java.util.List;
import java.util.Locale;
import java.util.random.RandomGenerator;

/** Makes sentences in which, as in real text, few words are frequent and many are rare. */
final class Prose {
  private final RandomGenerator random;

  Prose(RandomGenerator random) {
    this.random = random;
  }

  /** One of {@code words}; the n-th with a probability that falls like 1/n. */
  String pick(List<String> words) {
    double weight = 0;
    for (int i = 1; i <= words.size(); i++) {
      weight += 1.0 / i;
    }
    double at = random.nextDouble() * weight;
    for (int i = 1; i < words.size(); i++) {
      at -= 1.0 / i;
      if (at < 0) {
        return words.get(i - 1);
      }
    }
    return words.getLast();
  }

  String sentence() {
    String sentence = Vocabulary.SENTENCES.get(random.nextInt(Vocabulary.SENTENCES.size()));
    String part = pick(Vocabulary.PARTS);
    return sentence
        .replace("%p", pick(Vocabulary.PLACES))
        .replace("%q", pick(Vocabulary.QUALITIES))
        .replace("%c", pick(Vocabulary.CAUSES))
        .replace("%r", part)
        .replace("%R", part.substring(0, 1).toUpperCase(Locale.ROOT) + part.substring(1))
        .replace("%a", pick(Vocabulary.ACTS));
  }

  String sentences(int count) {
    StringBuilder out = new StringBuilder(sentence());
    for (int i = 1; i < count; i++) {
      out.append(' ').append(sentence());
    }
    return out.toString();
  }

  /** Notes as the garden's staff write them, in HTML. */
  String notes() {
    StringBuilder html = new StringBuilder("<p>").append(sentences(1 + random.nextInt(3)));
    html.append("</p>");
    if (random.nextInt(3) == 0) {
      html.append("<ul><li>")
          .append(sentence())
          .append("</li><li>")
          .append(sentence().replace("damaged", "<em>damaged</em>"))
          .append("</li></ul>");
    }
    if (random.nextInt(20) == 0) {
      html.append("<p>Field number RF&nbsp;").append(1000 + random.nextInt(9000)).append("</p>");
    }
    return html.toString();
  }
}
