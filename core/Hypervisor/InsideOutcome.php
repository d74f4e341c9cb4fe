<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** What came of a program that was run in a machine. */
final readonly class InsideOutcome
{
    /** Bytes of what it said that are kept: the end of it. */
    public const KEPT = 4000;

    /**
     * @param  int|null  $exit  null if it did not end by itself in time
     * @param  string  $output  bytes, as it said them
     */
    public function __construct(public ?int $exit, public string $output)
    {
    }

    /** @return array{exit: int|null, output: string} the output in base64 */
    public function toArray(): array
    {
        return ['exit' => $this->exit, 'output' => base64_encode(substr($this->output, -self::KEPT))];
    }

    /** @param  array<mixed>  $told */
    public static function fromArray(array $told): self
    {
        $output = $told['output'] ?? '';

        return new self(
            isset($told['exit']) ? Told::number($told, 'exit') : null,
            substr(is_string($output) ? (string) base64_decode($output) : '', -self::KEPT),
        );
    }
}
