package org.mnemex.service.publish;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.Map;
import java.util.Objects;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentSkipListSet;
import java.util.concurrent.CountDownLatch;
import org.junit.jupiter.api.Test;

/** News names every object that was written. */
class NewsTest {
  private static final Duration LONG = Duration.ofMinutes(2);

  @Test
  void nothingThatIsWrittenWhileOthersAskIsMissed() throws Exception {
    News news = new News();
    Set<String> told = new ConcurrentSkipListSet<>();
    CountDownLatch begun = new CountDownLatch(1);
    Thread asking =
        Thread.ofPlatform()
            .start(
                () -> {
                  try {
                    News.Written last = news.after(null, LONG);
                    begun.countDown();
                    while (!told.contains("last")) {
                      last = news.after(last.upTo(), LONG);
                      told.addAll(Objects.requireNonNull(last.objects()));
                    }
                  } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                  }
                });
    begun.await();
    Set<String> written = new TreeSet<>();
    Random random = new Random(1);
    for (int i = 0; i < 20_000; i++) {
      String object = "editions/plants/" + random.nextInt(5_000);
      news.wrote(object);
      written.add(object);
    }
    news.wrote("last");
    written.add("last");
    asking.join(LONG);
    assertThat(told).isEqualTo(written);
  }

  @Test
  void whoKnowsNothingOfThisRunMayHaveMissedAnything() throws Exception {
    News news = new News();
    news.wrote("catalogue");
    news.wrote("editions/plants/1");
    String upTo = news.after(null, LONG).upTo();
    for (Map.Entry<String, Boolean> known :
        Map.of(upTo, true, upTo + "0", false, "elsewhere-1", false, upTo + "x", false, "", false)
            .entrySet()) {
      assertThat(news.after(known.getKey(), Duration.ZERO).objects() != null)
          .as(known.getKey())
          .isEqualTo(known.getValue());
    }
    assertThat(news.after(upTo, Duration.ZERO).objects()).isEmpty();
    news.wrote("catalogue");
    assertThat(news.after(upTo, Duration.ZERO).objects()).containsExactly("catalogue");
    news.keep(Set.of());
    assertThat(news.after(upTo, Duration.ZERO).objects()).isEmpty();
    news.end();
    String last = news.after(null, LONG).upTo();
    assertThat(news.after(last, LONG).objects()).as("at once").isEmpty();
  }
}
