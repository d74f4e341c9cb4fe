<?php

declare(strict_types=1);

namespace Tests\Support;

use Illuminate\Http\Request;
use Illuminate\Testing\LoggedExceptionCollection;
use Illuminate\Testing\TestResponse;
use Symfony\Component\HttpFoundation\Response;

/**
 * An answer as it is read: in a page of HTML, whitespace of any kind is one space, however its template is laid out.
 *
 * @extends TestResponse<Response>
 */
final class Page extends TestResponse
{
    /** @param  LoggedExceptionCollection<int, \Throwable>  $logged */
    public static function of(Response $response, Request $request, LoggedExceptionCollection $logged): self
    {
        return (new self($response, $request))->withExceptions($logged);
    }

    public function getContent(): string|false
    {
        $content = $this->baseResponse->getContent();
        $isPage = str_starts_with((string) $this->baseResponse->headers->get('Content-Type'), 'text/html');

        return $isPage && is_string($content) ? (string) preg_replace('/\s+/', ' ', $content) : $content;
    }
}
