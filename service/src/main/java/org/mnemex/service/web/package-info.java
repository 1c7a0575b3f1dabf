/**
 * Shared parts of the HTTP interface: problem documents (RFC 9457), protection of the local
 * service, security headers. Start with {@link ProblemHandler}.
 */
@NullMarked
package org.mnemex.service.web;

import org.jspecify.annotations.NullMarked;
