package org.mnemex.service.web;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import java.util.regex.Pattern;
import org.apache.tomcat.util.http.InvalidParameterException;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.error.SearchTimeoutException;
import org.mnemex.engine.error.UnknownFieldException;
import org.mnemex.engine.query.FilterSyntaxException;
import org.mnemex.engine.text.NearestName;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.grammar.DefinitionProblem;
import org.mnemex.service.access.Caller;
import org.mnemex.service.access.Right;
import org.mnemex.service.compute.SearchSlots;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.shard.ShardAwayException;
import org.mnemex.sync.edition.EditionDamagedException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.core.NestedExceptionUtils;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.HttpStatusCode;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;
import org.springframework.http.converter.HttpMessageNotReadableException;
import org.springframework.transaction.TransactionException;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.RestControllerAdvice;
import org.springframework.web.context.request.WebRequest;
import org.springframework.web.servlet.mvc.method.annotation.ResponseEntityExceptionHandler;
import org.springframework.web.servlet.resource.NoResourceFoundException;
import tools.jackson.databind.exc.UnrecognizedPropertyException;

/** Every error as a problem document (RFC 9457). */
@RestControllerAdvice
public class ProblemHandler extends ResponseEntityExceptionHandler {
  private static final Logger LOG = LoggerFactory.getLogger(ProblemHandler.class);

  /** Messages of SQLite and Linux about a full or failing disk. */
  private static final Pattern DISK =
      Pattern.compile(
          "SQLITE_(FULL|IOERR|CANTOPEN|READONLY)|No space left|Disk quota exceeded|Read-only file system");

  private final Callers callers;

  ProblemHandler(Callers callers) {
    this.callers = callers;
  }

  /** Who only searches does not see how large an index is, or how far it is. */
  private String detail(ProblemType type, String detail) {
    Caller caller = callers.current();
    boolean onlySearches = caller != null && caller.right() == Right.SEARCH;
    return onlySearches && type.status() == HttpStatus.SERVICE_UNAVAILABLE.value()
        ? type.meaning()
        : detail;
  }

  /** The problem document of a refused search that is a part of a call. */
  public ProblemDetail problem(RuntimeException e) {
    ResponseEntity<Object> answer =
        switch (e) {
          case ProblemException problem -> on(problem);
          case FilterSyntaxException syntax -> on(syntax);
          case UnknownFieldException unknown -> on(unknown);
          case QueryRefusedException refused -> on(refused);
          case SearchTimeoutException timeout -> on(timeout);
          case EditionDamagedException damaged -> on(damaged);
          case ShardAwayException away -> on(away);
          default -> onUnforeseen(e);
        };
    return (ProblemDetail) Objects.requireNonNull(answer.getBody());
  }

  @ExceptionHandler
  ResponseEntity<Object> on(ProblemException e) {
    HttpHeaders headers = new HttpHeaders();
    if (e.retrySeconds() > 0) {
      headers.set(HttpHeaders.RETRY_AFTER, Integer.toString(e.retrySeconds()));
    }
    ProblemDetail problem =
        Problems.problem(
            e.type(), detail(e.type(), String.valueOf(e.getMessage())), e.suggestion());
    if (e.isInAddress()) {
      problem.setStatus(HttpStatus.NOT_FOUND);
    }
    return answer(problem, headers);
  }

  @ExceptionHandler
  ResponseEntity<Object> on(FilterSyntaxException e) {
    ProblemDetail problem =
        Problems.problem(ProblemType.BAD_FILTER, e.getMessage(), e.suggestion());
    problem.setProperty("line", e.line());
    problem.setProperty("column", e.column());
    return answer(problem);
  }

  @ExceptionHandler
  ResponseEntity<Object> on(UnknownFieldException e) {
    return answer(Problems.problem(ProblemType.UNKNOWN_FIELD, e.getMessage(), e.suggestion()));
  }

  @ExceptionHandler
  ResponseEntity<Object> on(QueryRefusedException e) {
    return answer(Problems.problem(ProblemType.QUERY_REFUSED, e.getMessage(), null));
  }

  @ExceptionHandler
  ResponseEntity<Object> on(SearchTimeoutException e) {
    return answer(
        Problems.problem(
            ProblemType.SEARCH_TIMEOUT,
            detail(ProblemType.SEARCH_TIMEOUT, String.valueOf(e.getMessage())),
            null));
  }

  @ExceptionHandler
  ResponseEntity<Object> on(ShardAwayException e) {
    return on(
        new ProblemException(ProblemType.SHARD_AWAY, String.valueOf(e.getMessage()))
            .retryAfter(SearchSlots.RETRY_SECONDS));
  }

  /** The first problem stands in the document itself, all of them under {@code problems}. */
  @ExceptionHandler
  ResponseEntity<Object> on(DefinitionException e) {
    List<DefinitionProblem> problems = e.problems();
    DefinitionProblem first = problems.getFirst();
    ProblemDetail problem =
        Problems.problem(ProblemType.BAD_DEFINITION, e.getMessage(), first.suggestion());
    problem.setProperty("file", first.file());
    problem.setProperty("line", first.line());
    problem.setProperty("column", first.column());
    problem.setProperty("key", first.key());
    problem.setProperty("problems", problems);
    return answer(problem);
  }

  /** Our own database cannot be read or written. */
  @ExceptionHandler({DataAccessException.class, TransactionException.class})
  ResponseEntity<Object> onUnwritten(RuntimeException e) {
    String reason = String.valueOf(NestedExceptionUtils.getMostSpecificCause(e).getMessage());
    return DISK.matcher(reason).find() ? onFullDisk(new IOException(reason, e)) : onUnforeseen(e);
  }

  /** Only a failed write may be a lack of space. */
  @ExceptionHandler
  ResponseEntity<Object> onInputOutput(UncheckedIOException e) {
    String reason = String.valueOf(NestedExceptionUtils.getMostSpecificCause(e).getMessage());
    return DISK.matcher(reason).find() ? onFullDisk(e.getCause()) : onUnforeseen(e);
  }

  @ExceptionHandler
  ResponseEntity<Object> on(EditionDamagedException e) {
    LOG.error("a search failed: {}", e.getMessage());
    HttpHeaders headers = new HttpHeaders();
    headers.set(HttpHeaders.RETRY_AFTER, "2");
    return answer(
        Problems.problem(
            ProblemType.INDEX_DAMAGED,
            detail(ProblemType.INDEX_DAMAGED, String.valueOf(e.getMessage())),
            null),
        headers);
  }

  private static ResponseEntity<Object> onFullDisk(IOException e) {
    LOG.error("request failed", e);
    return answer(
        Problems.problem(
            ProblemType.NOT_WRITTEN,
            "the service cannot write: %s; free some disk where its data is and try again"
                .formatted(e.getMessage()),
            null));
  }

  /** Unexpected errors: the log has the details, the caller the id of the request. */
  @ExceptionHandler(RuntimeException.class)
  ResponseEntity<Object> onUnforeseen(RuntimeException e) {
    String request = RequestIds.current();
    LOG.error("request {} failed", request, e);
    return answer(
        Problems.problem(
            ProblemType.INTERNAL_ERROR,
            "an error in the service; its log has details under " + request,
            null));
  }

  /** Malformed or nameless parameters. */
  @ExceptionHandler
  ResponseEntity<Object> on(InvalidParameterException e) {
    return answer(
        Problems.problem(
            ProblemType.BAD_PARAMETERS,
            "the query string cannot be read: each parameter has a name and is percent-encoded UTF-8",
            null));
  }

  @ExceptionHandler
  ResponseEntity<Object> on(BodyTooLargeException e) {
    return answer(Problems.problem(ProblemType.BODY_TOO_LARGE, e.getMessage(), null));
  }

  @ExceptionHandler
  ResponseEntity<Object> on(BodyTooSlowException e) {
    return answer(Problems.problem(ProblemType.BODY_TOO_SLOW, e.getMessage(), null));
  }

  @Override
  protected ResponseEntity<Object> createResponseEntity(
      @Nullable Object body, HttpHeaders headers, HttpStatusCode status, WebRequest request) {
    if (!(body instanceof ProblemDetail problem)) {
      return answer(Problems.of(status.value()), headers);
    }
    Problems.typed(problem);
    return answer(problem, headers);
  }

  private static ResponseEntity<Object> answer(ProblemDetail problem) {
    return answer(problem, HttpHeaders.EMPTY);
  }

  private static ResponseEntity<Object> answer(ProblemDetail problem, HttpHeaders headers) {
    return Problems.answer(problem, headers);
  }

  @Override
  protected @Nullable ResponseEntity<Object> handleHttpMessageNotReadable(
      HttpMessageNotReadableException e,
      HttpHeaders headers,
      HttpStatusCode status,
      WebRequest request) {
    if (e.getMostSpecificCause() instanceof BodyTooLargeException large) {
      return on(large);
    }
    if (e.getMostSpecificCause() instanceof BodyTooSlowException slow) {
      return on(slow);
    }
    if (e.getMostSpecificCause() instanceof UnrecognizedPropertyException unknown) {
      return answer(unknownKey(unknown), headers);
    }
    return answer(
        Problems.problem(
            ProblemType.BAD_BODY,
            "the body is not the expected JSON: "
                + String.valueOf(e.getMostSpecificCause().getMessage())
                    .lines()
                    .findFirst()
                    .orElse(""),
            null),
        headers);
  }

  @Override
  protected ResponseEntity<Object> handleNoResourceFoundException(
      NoResourceFoundException e, HttpHeaders headers, HttpStatusCode status, WebRequest request) {
    return answer(Problems.of(status.value()), headers);
  }

  private static ProblemDetail unknownKey(UnrecognizedPropertyException e) {
    Set<String> known = new TreeSet<>();
    e.getKnownPropertyIds().forEach(id -> known.add(id.toString()));
    String name = e.getPropertyName();
    return Problems.problem(
        ProblemType.UNKNOWN_KEY,
        "the body has an unknown key '%s'; there are %s".formatted(name, String.join(", ", known)),
        NearestName.to(name, known));
  }
}
