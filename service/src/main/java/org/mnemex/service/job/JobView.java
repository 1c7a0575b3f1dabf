package org.mnemex.service.job;

import com.fasterxml.jackson.annotation.JsonRawValue;
import io.swagger.v3.oas.annotations.media.Schema;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.store.JobMapper.JobLine;

/**
 * A job.
 *
 * @param id its number
 * @param kind fill, audit, compare, score, compact, import, export, backup or restore
 * @param about the name of the index, endpoint or scorecard that it is about, or {@code everything}
 * @param detail what of it, such as {@code edition 2}
 * @param state waiting (for others of its kind), running, done, failed, cancelled, or interrupted
 *     by a stop of the service
 * @param started when it was begun, ISO 8601, UTC
 * @param ended when it ended, likewise; null until then
 * @param done how much is done, in records, queries or bytes
 * @param total of how much; null if that is not known
 * @param perSecond how much a second since it began; null once it has ended
 * @param secondsLeft how long it will take at this rate, in seconds; null if that is not known
 * @param message how it ended, in a sentence; null until then
 * @param result what it found; null in lists, and if there is none
 * @param log what it said on its way; null in lists
 */
public record JobView(
    long id,
    String kind,
    String about,
    String detail,
    String state,
    String started,
    @Nullable String ended,
    long done,
    @Nullable Long total,
    @Nullable Double perSecond,
    @Nullable Long secondsLeft,
    @Nullable String message,
    @JsonRawValue @Schema(implementation = Object.class) @Nullable String result,
    @Nullable List<JobLine> log) {}
