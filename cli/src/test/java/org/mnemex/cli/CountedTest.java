package org.mnemex.cli;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Test;

class CountedTest {
  @Test
  void onlyOneIsOne() {
    assertThat(Counted.of(0, "record")).isEqualTo("0 records");
    assertThat(Counted.of(1, "record")).isEqualTo("1 record");
    assertThat(Counted.of(12_000, "record")).isEqualTo("12,000 records");
    assertThat(Counted.of(1, "query", "queries")).isEqualTo("1 query");
    assertThat(Counted.of(2, "query", "queries")).isEqualTo("2 queries");
  }
}
