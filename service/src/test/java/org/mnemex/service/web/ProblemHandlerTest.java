package org.mnemex.service.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.engine.error.SearchTimeoutException;
import org.mockito.Mockito;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;

class ProblemHandlerTest {
  @ParameterizedTest
  @CsvSource({
    "No space left on device, not-written, 507, free some disk",
    "Disk quota exceeded, not-written, 507, free some disk",
    "Connection reset by peer, internal-error, 500, its log has details",
    "Too many open files, internal-error, 500, its log has details"
  })
  void onlyAFullDiskIsAMatterOfItsRoom(String reason, String type, int status, String said) {
    ResponseEntity<Object> answer =
        new ProblemHandler(Mockito.mock(Callers.class))
            .onInputOutput(new UncheckedIOException(new IOException(reason)));
    assertThat(answer.getStatusCode().value()).isEqualTo(status);
    assertThat(answer.getBody())
        .isInstanceOfSatisfying(
            ProblemDetail.class,
            problem -> {
              assertThat(problem.getDetail()).contains(said);
              assertThat(problem.getType()).hasToString("/problems/" + type);
            });
  }

  @Test
  void aSearchThatTookTooLongSaysSo() {
    ResponseEntity<Object> answer =
        new ProblemHandler(Mockito.mock(Callers.class))
            .on(new SearchTimeoutException(20, 1_000, 5_000));
    assertThat(answer.getStatusCode().value()).isEqualTo(503);
    assertThat(answer.getBody())
        .isInstanceOfSatisfying(
            ProblemDetail.class,
            problem -> assertThat(problem.getType()).hasToString("/problems/search-timeout"));
  }
}
