<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Kind;
use App\Kinds\Kinds;
use App\Kinds\Need;
use Symfony\Component\Console\Input\InputInterface;

final class KindList extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('kinds')->setDescription('Lists the kinds of workloads, and what each needs on this machine');
    }

    protected function carryOut(InputInterface $input): int
    {
        $kinds = Kinds::all();
        $this->answer(['kinds' => array_values(array_map(self::document(...), $kinds))], function () use ($kinds): iterable {
            foreach ($kinds as $name => $kind) {
                yield $name.($kind->needs() === [] ? ': needs nothing beyond the desk itself' : '');
                foreach ($kind->needs() as $need) {
                    yield "  {$need->program}".
                        ($need->isThere() ? '' : ' is missing').
                        ", of {$need->package} (about {$need->megabytes} MB): {$need->for}";
                }
                $command = Need::command($kind->needs());
                if ($command !== null) {
                    yield "  Install what is missing, as root: $command";
                }
            }
        });

        return self::DONE;
    }

    /** @return array<string, mixed> */
    private static function document(Kind $kind): array
    {
        $needs = array_map(fn (Need $need): array => get_object_vars($need) + ['there' => $need->isThere()], $kind->needs());

        return ['name' => $kind->name(), 'noun' => $kind->noun(), 'needs' => $needs];
    }
}
