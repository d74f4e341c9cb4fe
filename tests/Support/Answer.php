<?php

declare(strict_types=1);

namespace Tests\Support;

/** What a command answered. */
final readonly class Answer
{
    public function __construct(public int $code, public string $text)
    {
    }

    /** @return array<mixed> of the one JSON document in it; messages come before it */
    public function json(): array
    {
        $start = strpos($this->text, "{\n");
        $document = json_decode(substr($this->text, $start === false ? 0 : $start), true);

        return is_array($document) ? $document : [];
    }
}
