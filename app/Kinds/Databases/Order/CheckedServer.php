<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

/** What was found when a server was looked at for an order. */
final readonly class CheckedServer
{
    /** @param  list<array{check: string, result: string, detail: string}>  $lines  result: passed, failed, or note */
    public function __construct(public array $lines)
    {
    }

    /** @return list<string> what stands in the way */
    public function blockers(): array
    {
        return array_map(ucfirst(...), $this->inWords('failed'));
    }

    /** @return list<string> what does not, but should be known */
    public function notes(): array
    {
        return $this->inWords('note');
    }

    /** @return list<string> */
    private function inWords(string $result): array
    {
        return array_values(
            array_map(
                fn (array $line): string => "{$line['check']}: {$line['detail']}",
                array_filter($this->lines, fn (array $line): bool => $line['result'] === $result),
            ),
        );
    }
}
