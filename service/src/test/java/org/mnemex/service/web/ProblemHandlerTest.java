package org.mnemex.service.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;

class ProblemHandlerTest {
  @ParameterizedTest
  @CsvSource({
    "No space left on device, 507, free some disk",
    "Disk quota exceeded, 507, free some disk",
    "Connection reset by peer, 500, its log says more",
    "Too many open files, 500, its log says more"
  })
  void onlyAFullDiskIsAMatterOfItsRoom(String reason, int status, String said) {
    ResponseEntity<Object> answer =
        new ProblemHandler().onInputOutput(new UncheckedIOException(new IOException(reason)));
    assertThat(answer.getStatusCode().value()).isEqualTo(status);
    assertThat(answer.getBody())
        .isInstanceOfSatisfying(
            ProblemDetail.class, problem -> assertThat(problem.getDetail()).contains(said));
  }
}
