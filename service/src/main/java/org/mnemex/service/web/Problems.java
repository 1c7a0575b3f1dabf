package org.mnemex.service.web;

import io.micrometer.core.instrument.Metrics;
import java.net.URI;
import java.util.Locale;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.problem.ProblemType;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.HttpStatusCode;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ObjectNode;

/** Problem documents (RFC 9457), and how they are sent. */
final class Problems {
  private static final String TYPES = "/problems/";

  private Problems() {}

  static ProblemDetail problem(
      ProblemType type, @Nullable String detail, @Nullable String suggestion) {
    ProblemDetail problem =
        ProblemDetail.forStatusAndDetail(
            HttpStatusCode.valueOf(type.status()), String.valueOf(detail));
    typed(problem, type.word());
    if (suggestion != null) {
      problem.setProperty("suggestion", suggestion);
    }
    return problem;
  }

  /** The title of a bare status. */
  static void typed(ProblemDetail problem) {
    typed(problem, phrase(problem.getStatus()).toLowerCase(Locale.ROOT).replace(' ', '-'));
  }

  private static void typed(ProblemDetail problem, String type) {
    problem.setType(URI.create(TYPES + type));
    problem.setTitle(type.replace('-', ' '));
    Metrics.counter("mnemex.problems", "type", type).increment();
    String request = RequestIds.current();
    if (request != null) {
      problem.setProperty("request", request);
    }
  }

  private static String phrase(int status) {
    HttpStatus known = HttpStatus.resolve(status);
    return known == null ? "error" : known.getReasonPhrase();
  }

  /** The detail of a bare status. */
  static ProblemDetail of(int status) {
    ProblemDetail problem = ProblemDetail.forStatus(status);
    typed(problem);
    problem.setDetail(
        switch (status) {
          case 400 -> "the request is not valid HTTP, or its URL is badly encoded";
          case 404 -> "there is nothing under this address";
          case 405 -> "this address does not take such requests";
          default -> phrase(status);
        });
    return problem;
  }

  /** As JSON, whatever the caller accepts: any answer beats none. */
  static ResponseEntity<Object> answer(ProblemDetail problem, HttpHeaders more) {
    HttpHeaders headers = new HttpHeaders(more);
    headers.setContentType(MediaType.APPLICATION_PROBLEM_JSON);
    return new ResponseEntity<>(problem, headers, HttpStatusCode.valueOf(problem.getStatus()));
  }

  static String json(ProblemDetail problem) {
    ObjectNode document =
        JsonMapper.shared()
            .createObjectNode()
            .put("type", String.valueOf(problem.getType()))
            .put("title", problem.getTitle())
            .put("status", problem.getStatus())
            .put("detail", problem.getDetail());
    String request = RequestIds.current();
    if (request != null) {
      document.put("request", request);
    }
    return document.toString();
  }
}
