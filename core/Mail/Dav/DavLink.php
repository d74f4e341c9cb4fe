<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Dav;

use DOMElement;
use GuzzleHttp\Client;
use GuzzleHttp\Exception\GuzzleException;
use Psr\Http\Message\ResponseInterface;
use Psr\Http\Message\StreamInterface;

/** Asks a server of calendars and contacts over HTTP. It is never followed elsewhere, and what it says has a limit. */
final readonly class DavLink
{
    /** Seconds that one answer may take. */
    private const PATIENCE = 120;

    private const LARGEST = 256 << 20;

    private Client $client;

    public function __construct(private DavAddress $at, string $user, #[\SensitiveParameter] string $password)
    {
        $this->client = new Client([
            'auth' => [$user, $password],
            'http_errors' => false,
            'allow_redirects' => false,
            'connect_timeout' => 10,
            'timeout' => self::PATIENCE,
            'proxy' => '',
            'stream' => false,
            'headers' => ['User-Agent' => 'Kaiseki'],
        ]);
    }

    /**
     * @param  array<string, string>  $headers
     *
     * @throws DavFailure if it is refused
     */
    public function order(string $method, string $path, string $what, ?string $body = null, array $headers = []): ResponseInterface
    {
        try {
            $answer = $this->client->request($method, $this->at->origin.$path, [
                'headers' => $headers,
                'sink' => self::limited(),
            ] + ($body === null ? [] : ['body' => $body]));
        } catch (GuzzleException $failure) {
            throw DavFailure::unreachable($this->at->origin, $failure->getMessage());
        }
        if ($answer->getStatusCode() >= 300) {
            throw DavFailure::refused($what, $answer->getStatusCode(), substr($this->bytes($answer), 0, 4_000));
        }

        return $answer;
    }

    /**
     * @return iterable<string, DOMElement> see DavXml::responses()
     *
     * @throws DavFailure
     */
    public function ask(string $method, string $path, string $body, int $depth, string $what): iterable
    {
        return DavXml::responses($this->answer($method, $path, $body, $depth, $what));
    }

    /**
     * @return string XML
     *
     * @throws DavFailure
     */
    public function answer(string $method, string $path, string $body, int $depth, string $what): string
    {
        return $this->bytes($this->order($method, $path, $what, "<?xml version=\"1.0\" encoding=\"utf-8\"?>$body", [
            'Depth' => (string) $depth,
            'Content-Type' => 'application/xml; charset=utf-8',
        ]));
    }

    public function bytes(ResponseInterface $answer): string
    {
        $answer->getBody()->rewind();

        return (string) $answer->getBody();
    }

    private static function limited(): StreamInterface
    {
        return new LimitedBody(self::LARGEST);
    }
}
