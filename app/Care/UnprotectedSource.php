<?php

declare(strict_types=1);

namespace App\Care;

/** An original that is there, that no workload has the name of, and what becomes of it. */
final readonly class UnprotectedSource
{
    /**
     * @param  string  $source  where it is, in the words of its kind
     * @param  string  $kind  the name of its kind
     * @param  array<string, mixed>  $workload  the columns of the workload that it becomes, beside name and kind
     * @param  bool  $hasRule  whether its group has a rule that takes it up
     */
    public function __construct(
        public string $name,
        public string $group,
        public string $source,
        public string $kind,
        public array $workload,
        public bool $hasRule,
    ) {
    }
}
