package org.mnemex.service.shard;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyLong;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import java.util.List;
import java.util.Set;
import java.util.concurrent.CountDownLatch;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.shard.Shard;

class AskedTogetherTest {
  private final Hedging hedging = new Hedging(1e12);
  private final CountDownLatch givenUp = new CountDownLatch(1);

  private static Shard having(long documents) {
    Shard shard = mock();
    when(shard.documents()).thenReturn(documents);
    return shard;
  }

  private static Elsewhere elsewhere(long documents, @Nullable Shard second) {
    Elsewhere shard = mock();
    when(shard.documents()).thenReturn(documents);
    when(shard.second()).thenReturn(second);
    return shard;
  }

  private static Elsewhere failing(RuntimeException e, @Nullable Shard second) {
    Elsewhere shard = mock();
    when(shard.documents()).thenThrow(e);
    when(shard.second()).thenReturn(second);
    return shard;
  }

  /** One that does not answer until the call is given up. */
  private Elsewhere silent(@Nullable Shard second) {
    Elsewhere shard = mock();
    when(shard.documents())
        .thenAnswer(
            call -> {
              try {
                new CountDownLatch(1).await();
                return 0L;
              } catch (InterruptedException e) {
                givenUp.countDown();
                throw new ShardAwayException("given up", e);
              }
            });
    when(shard.second()).thenReturn(second);
    return shard;
  }

  private List<Long> documents(Shard... shards) {
    return documents(hedging, shards);
  }

  private static List<Long> documents(Hedging hedging, Shard... shards) {
    return new AskedTogether(List.of(shards), Set.of(), hedging).each(Shard::documents);
  }

  @Test
  void answersComeInTheOrderOfTheShards() {
    assertThat(documents(elsewhere(1, null), having(2), elsewhere(3, null)))
        .containsExactly(1L, 2L, 3L);
    assertThat(documents(elsewhere(1, null))).containsExactly(1L);
    assertThat(new AskedTogether(List.of(having(1)), Set.of(4, 2), hedging).away())
        .containsExactlyInAnyOrder(2, 4);
  }

  @Test
  void whatASlowNodeDoesNotAnswerIsAskedOfAnotherOne() throws InterruptedException {
    assertThat(documents(silent(having(7)), having(2))).containsExactly(7L, 2L);
    givenUp.await();
    assertThat(documents(elsewhere(1, null), silent(having(8)), elsewhere(3, null)))
        .containsExactly(1L, 8L, 3L);
  }

  @Test
  void anotherNodeIsAskedIfOneCannotBe() {
    ShardAwayException gone = new ShardAwayException("gone");
    // Not limited: nothing is asked twice.
    for (int i = 0; i < 50; i++) {
      assertThat(documents(failing(gone, having(7)), having(2))).containsExactly(7L, 2L);
    }
    ShardAwayException alsoGone = new ShardAwayException("gone as well");
    assertThatThrownBy(() -> documents(failing(gone, failing(alsoGone, null)), having(2)))
        .hasMessage("gone as well");
    assertThatThrownBy(() -> documents(failing(gone, null), having(2))).hasMessage("gone");
    // The first one is slow, and the second one gone.
    Elsewhere slow = mock();
    CountDownLatch asked = new CountDownLatch(1);
    Shard second = mock();
    when(second.documents())
        .thenAnswer(
            call -> {
              asked.countDown();
              throw gone;
            });
    when(slow.second()).thenReturn(second);
    when(slow.documents())
        .thenAnswer(
            call -> {
              asked.await();
              return 5L;
            });
    assertThat(documents(slow, having(2))).containsExactly(5L, 2L);
  }

  @Test
  void aSlowNodeThatFailsIsReplacedEvenIfNothingMayBeAskedTwice() {
    CountDownLatch refused = new CountDownLatch(1);
    Hedging none = mock();
    when(none.mayAskTwice(anyLong()))
        .thenAnswer(
            call -> {
              refused.countDown();
              return false;
            });
    Elsewhere slow = mock();
    Shard second = having(7);
    when(slow.second()).thenReturn(second);
    when(slow.documents())
        .thenAnswer(
            call -> {
              refused.await();
              throw new ShardAwayException("gone");
            });
    assertThat(documents(none, slow, having(2))).containsExactly(7L, 2L);
  }

  @Test
  void whatIsRefusedIsNotAskedAgain() {
    Shard second = having(7);
    Elsewhere refusing = failing(new QueryRefusedException("too much"), second);
    assertThatThrownBy(() -> documents(refusing, having(2))).hasMessage("too much");
    verify(second, never()).search(any());
    verify(second, never()).documents();
  }

  @Test
  void secondNodesAreAskedForAShareOfTheTimeThatNodesTake() {
    Hedging few = new Hedging(100);
    assertThat(few.mayAskTwice(101)).isFalse();
    assertThat(few.mayAskTwice(60)).isTrue();
    assertThat(few.mayAskTwice(60)).isFalse();
    few.answered(1_000);
    assertThat(few.mayAskTwice(60)).isTrue();
    assertThat(few.mayAskTwice(60)).isFalse();
  }
}
