package org.mnemex.sync.source;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.List;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.api.Test;

/** Which shard a record belongs to is written down in stores, so it must never change. */
class ShardTest {
  @Test
  void aKeyIsInTheRangeOfItsHash() {
    // MurmurHash3 of "hello" is 0x248bfa47, of "hello, world" 0x149bbb7f, of "a" 0x3c2569b2.
    assertThat(Shard.number("hello", 256)).isEqualTo(0x24);
    assertThat(Shard.number("hello, world", 256)).isEqualTo(0x14);
    assertThat(Shard.number("a", 16)).isEqualTo(3);
    assertThat(new Shard(3, 16).has(new RecordKey(List.of("a")))).isTrue();
    assertThatThrownBy(() -> new Shard(2, 2)).hasMessageContaining("no shard 2 of 2");
  }

  @Property
  void aRecordIsInOneShardAndTwiceAsManySplitEachInTwo(
      @ForAll String key, @ForAll @IntRange(min = 1, max = 128) int shards) {
    RecordKey record = new RecordKey(List.of(key));
    long having = 0;
    for (int i = 0; i < shards; i++) {
      having += new Shard(i, shards).has(record) ? 1 : 0;
    }
    assertThat(having).isEqualTo(1);
    assertThat(Shard.number(key, 2 * shards) / 2).isEqualTo(Shard.number(key, shards));
  }
}
