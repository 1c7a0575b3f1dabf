/**
 * Problems that callers see when a request fails. {@link ProblemType} lists every kind of problem;
 * {@link ProblemException} carries one to the caller.
 */
@NullMarked
package org.mnemex.service.problem;

import org.jspecify.annotations.NullMarked;
