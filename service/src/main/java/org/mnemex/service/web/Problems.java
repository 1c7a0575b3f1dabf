package org.mnemex.service.web;

import java.net.URI;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.HttpStatusCode;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;
import tools.jackson.databind.json.JsonMapper;

/** Problem documents (RFC 9457), and how they are sent. */
final class Problems {
  private static final String TYPES = "/problems/";

  private Problems() {}

  static ProblemDetail problem(
      HttpStatusCode status, String type, @Nullable String detail, @Nullable String suggestion) {
    ProblemDetail problem = ProblemDetail.forStatusAndDetail(status, String.valueOf(detail));
    problem.setType(URI.create(TYPES + type));
    problem.setTitle(type.replace('-', ' '));
    if (suggestion != null) {
      problem.setProperty("suggestion", suggestion);
    }
    return problem;
  }

  /** What the status alone says. */
  static ProblemDetail of(int status) {
    HttpStatus known = HttpStatus.resolve(status);
    String phrase = known == null ? "error" : known.getReasonPhrase();
    return problem(
        HttpStatusCode.valueOf(status),
        phrase.toLowerCase(java.util.Locale.ROOT).replace(' ', '-'),
        switch (status) {
          case 400 -> "the request is no valid HTTP, or its address is not encoded as it should be";
          case 404 -> "there is nothing under this address";
          case 405 -> "this address does not take such requests";
          case 414 -> "the address is too long; send what is asked for in the body of a POST";
          default -> phrase;
        },
        null);
  }

  /** As JSON, whatever the caller accepts: somebody who cannot read it has lost nothing. */
  static ResponseEntity<Object> answer(ProblemDetail problem, HttpHeaders more) {
    HttpHeaders headers = new HttpHeaders(more);
    headers.setContentType(MediaType.APPLICATION_PROBLEM_JSON);
    return new ResponseEntity<>(problem, headers, HttpStatusCode.valueOf(problem.getStatus()));
  }

  static String json(ProblemDetail problem) {
    return JsonMapper.shared()
        .createObjectNode()
        .put("type", String.valueOf(problem.getType()))
        .put("title", problem.getTitle())
        .put("status", problem.getStatus())
        .put("detail", problem.getDetail())
        .toString();
  }
}
