package org.mnemex.service.problem;

import java.util.Arrays;
import java.util.Locale;
import org.jspecify.annotations.Nullable;

/**
 * Every type of problem document (RFC 9457) that the service answers. Its name in lower case with
 * hyphens is the last part of the document's {@code type}.
 */
public enum ProblemType {
  AUDIT_RUNNING(409, "An audit of the index is running already."),
  BAD_ACCESS_KEY(400, "The key cannot be created or rotated in this way."),
  BAD_ACT(400, "The act of a pushed line is not `replace`, `merge` or `delete`."),
  BAD_AFTER(400, "`after` is not the `next` of an answer to the same search."),
  BAD_ANSWER_ID(400, "`id` is not the id of an answer."),
  BAD_BEGINS(400, "`begins` of a facet search is too long."),
  BAD_BODY(400, "The body is not the JSON that the call expects."),
  BAD_CONTENT_TYPE(
      415, "Records are pushed as `application/x-ndjson`, `text/csv` or `application/json`."),
  BAD_DEFINITION(
      422,
      "A definition is not valid. `problems` lists every problem with file, line, column and key."),
  BAD_FACET(400, "The facet cannot be searched or used in this way."),
  BAD_FACET_VALUE(400, "A chosen value does not fit the facet's field."),
  BAD_FILTER(400, "The filter is not valid; `line` and `column` say where."),
  BAD_INSIGHTS(400, "There is no such report, or it asks for too much."),
  BAD_NEAR(400, "`near` is not a latitude and a longitude."),
  BAD_PAGE(400, "The place in the results is given in two ways, or out of range."),
  BAD_PARAMETERS(400, "The query string is not percent-encoded UTF-8, or a parameter has no name."),
  BAD_POSITION(400, "`true_for` is not a position of the index's source."),
  BAD_RECORD(400, "A pushed record does not have the form of the index's records."),
  BAD_RECORDS(
      400,
      "No definitions can be proposed from these records; `detail` lists what is wrong with it."),
  BAD_REQUEST(400, "The request is not valid HTTP, or a parameter is malformed."),
  BAD_SAMPLE(400, "The sample of an audit is not a share such as `0.1%`."),
  BAD_SIZE(400, "`size` or `top` is larger than the endpoint allows."),
  BAD_SUGGEST(400, "The text to complete or the number of suggestions is too large."),
  BAD_TOP(400, "The number of results to compare is out of range."),
  BAD_VALUE(400, "A parameter is not of its type: a number, `true` or `false`, a number of words."),
  BODY_TOO_LARGE(413, "The body is larger than the service accepts."),
  BODY_TOO_SLOW(408, "The body does not arrive within the service's time limit."),
  DATABASE_IS_THE_TRUTH(409, "Records of the index come from a database and cannot be pushed."),
  DEFINITION_IN_USE(409, "The definition is needed by others."),
  EDITION_REFUSED(
      409, "The edition cannot be promoted, rolled back or built in its current state."),
  ENDPOINT_WAITS_FOR_EDITION(
      503, "The endpoint needs fields of an edition that is still being filled."),
  INDEX_BEING_BUILT(503, "The index has no live edition yet."),
  INDEX_DAMAGED(503, "A file of the index is damaged, and is being replaced."),
  INDEX_NOT_RUNNING(503, "The index could not be started; the detail says why."),
  INTERNAL_ERROR(
      500, "An error in the service. The log has details under the number in the detail."),
  JOB_ENDED(409, "The job has ended, or cannot be cancelled."),
  KEY_CANNOT_CHANGE(400, "A pushed change names a column of the record's key."),
  METHOD_NOT_ALLOWED(405, "The URL exists, but not for this method."),
  NO_DRAFT(400, "No index can be drafted from the table."),
  NO_FILES(400, "The request has no definition files."),
  NO_INDEX(400, "A preview does not name an index."),
  NO_KEY(401, "The call needs a key or token that is valid now."),
  NO_NEAR(400, "The sort order needs the caller's place: `near` is missing."),
  NO_OTHER_EDITION(404, "There is no second edition to compare with."),
  NO_QUERIES(400, "There are no queries to compare editions by."),
  NOT_ACCEPTABLE(406, "The call cannot answer in any form that `Accept` names."),
  NOT_BEGUN(
      507,
      "The definitions are applied, but the disk was full, so new editions could not start. The service retries."),
  NOT_ALLOWED(403, "The key or token does not allow this call, or not from this page or network."),
  NOT_FOUND(404, "There is nothing at this URL."),
  NOT_IN_QUARANTINE(404, "The record is not in quarantine."),
  NOT_PUBLISHING(503, "The service publishes nothing now, so it has no news for search nodes."),
  NOT_WRITTEN(507, "The service could not write to its disk."),
  NOT_YET_TRUE(503, "The index has not reached the position in `true_for` in time."),
  NOTHING_TO_COMPARE(400, "The record or text has no words to find similar records by."),
  ONE_SHARD(421, "The service builds one shard of its indexes, and others have to be asked."),
  PLAN_OUTDATED(409, "The plan is outdated; make a new one."),
  QUERY_REFUSED(400, "The search exceeds its limits, or a field lacks the needed use."),
  QUERY_TOO_LONG(400, "`q` is too long."),
  READER_IN_USE(409, "The reader feeds an index."),
  REFUSED(403, "The service answers only local callers and pages."),
  REPEATED_PARAMETER(400, "A parameter that takes one value is there more than once."),
  SEARCH_NODE(421, "The call is not for a search node, which only answers searches."),
  SEARCH_TIMEOUT(503, "The search exceeded its time limit."),
  SHARD_AWAY(503, "No search node that has a shard of the index can be asked now."),
  SOURCE_UNAVAILABLE(503, "The source cannot be read now."),
  STOPPING(503, "The service is stopping."),
  TEXT_TOO_LONG(400, "The text to compare with is too long."),
  TOO_BUSY(503, "Too many calls are running and waiting."),
  TOO_DEEP(400, "The page is beyond the last one that is available by number."),
  TOO_LARGE(400, "The text to analyse is too long, or there are too many analysers."),
  TOO_MANY_CALLS(429, "The key or endpoint has reached its rate."),
  TOO_MANY_CHOICES(400, "Too many facet values are chosen."),
  TOO_MANY_ENDPOINTS(400, "More endpoints are asked than one call answers."),
  TOO_MANY_KEYS(400, "More records are asked for by key than one call answers."),
  TOO_MANY_RECORDS(
      400, "A filter of a pushed change matches more records than one call may change."),
  TOO_SLOW(503, "The call exceeded its time limit and was cancelled."),
  UNKNOWN_ACCESS_KEY(404, "There is no such key."),
  UNKNOWN_ANALYSER(404, "There is no such analyser."),
  UNKNOWN_BACKUP(404, "There is no such backup any more, or it has no such file."),
  UNKNOWN_DEFINITION(404, "There is no such definition."),
  UNKNOWN_EDITION(404, "The index has no such edition."),
  UNKNOWN_ENDPOINT(404, "There is no such endpoint."),
  UNKNOWN_FACET(400, "The endpoint has no such facet."),
  UNKNOWN_FIELD(400, "The index has no such field."),
  UNKNOWN_GROUP(400, "The endpoint has no such group."),
  UNKNOWN_INDEX(404, "There is no such index."),
  UNKNOWN_JOB(404, "There is no job of this number; the latest 1,000 are kept."),
  UNKNOWN_KEY(400, "The body has an unknown key."),
  UNKNOWN_KIND(404, "There is no such kind of definition."),
  UNKNOWN_LANGUAGE(400, "The endpoint has no fields for the language."),
  UNKNOWN_PARAMETER(400, "The call has no such parameter."),
  UNKNOWN_READER(404, "The source has no such reader."),
  UNKNOWN_RECORD(404, "The endpoint has no such record."),
  UNKNOWN_SCORECARD(404, "There is no such scorecard."),
  UNKNOWN_SORT(400, "The endpoint has no such sort order."),
  UNKNOWN_SOURCE(404, "There is no such source."),
  UNKNOWN_TABLE(404, "The source has no such table."),
  UNKNOWN_VERSION(404, "The definition has no such version."),
  UNSUPPORTED_MEDIA_TYPE(415, "The call does not read bodies of this `Content-Type`.");

  private final int status;
  private final String meaning;

  ProblemType(int status, String meaning) {
    this.status = status;
    this.meaning = meaning;
  }

  /** The HTTP status of the answer; 404 if the missing thing is named by the URL. */
  public int status() {
    return status;
  }

  /** What it means, in one sentence. */
  public String meaning() {
    return meaning;
  }

  /** Its name in documents, such as {@code bad-filter}. */
  public String word() {
    return name().toLowerCase(Locale.ROOT).replace('_', '-');
  }

  /** The type with this name, or null. */
  public static @Nullable ProblemType of(String word) {
    return Arrays.stream(values())
        .filter(type -> type.word().equals(word))
        .findFirst()
        .orElse(null);
  }
}
