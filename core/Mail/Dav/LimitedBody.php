<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Dav;

use GuzzleHttp\Psr7\StreamDecoratorTrait;
use GuzzleHttp\Psr7\Utils;
use Psr\Http\Message\StreamInterface;

/** What a server answers, spooled, and refused once it is longer than it may be. */
final class LimitedBody implements StreamInterface
{
    use StreamDecoratorTrait;

    private StreamInterface $stream;

    private int $written = 0;

    public function __construct(private readonly int $most)
    {
        $this->stream = Utils::streamFor(fopen('php://temp', 'w+b'));
    }

    /** @return int 0 ends the answer: it is too long */
    public function write($string): int
    {
        $this->written += strlen($string);

        return $this->written > $this->most ? 0 : $this->stream->write($string);
    }
}
