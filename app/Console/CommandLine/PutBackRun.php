<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Databases\Run\DatabaseRun;
use App\Models\Run;
use App\Trees\Run\PathInJson;
use App\Trees\Run\RunCarrier;
use InvalidArgumentException;
use Kaiseki\Core\Files\LeftOut;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class PutBackRun extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('put-back')->setDescription('Undoes what a run put in place, and puts back what it replaced')
            ->addArgument('run', InputArgument::REQUIRED, 'the number of the run')
            ->addOption('also-changed', null, InputOption::VALUE_NONE, 'also where somebody changed something since: their version is kept beside it under another name');
    }

    protected function carryOut(InputInterface $input): int
    {
        $number = (string) $input->getArgument('run');
        $run = Run::query()->find((int) $number) ?? throw new InvalidArgumentException("There is no run $number.");
        $marked = $run->isOfDatabase() || $input->getOption('also-changed') ? $run->marked() : null;
        $marked === null || self::refuseMarked($marked, 'putting back what was changed since');
        if ($run->isOfDatabase()) {
            $done = (new DatabaseRun)->putBack($run);
            $this->answer(['run' => $run->id] + $done, fn (): array => ["Run {$run->id} was put back: {$done['returned']} ".(isset($run->outcome['by_table']) ? 'rows' : 'tables').' are as they were before it.', ...$done['remarks']]);

            return self::DONE;
        }
        $putBack = (new RunCarrier)->putBack($run, (bool) $input->getOption('also-changed'));
        $this->answer([
            'run' => $run->id, 'removed' => $putBack->removed, 'returned' => $putBack->returned,
            'left' => array_map(fn (LeftOut $left): array => PathInJson::of($left->path) + ['because' => $left->because], $putBack->left),
            'kept' => array_map(fn (int|string $path, string $name): array => PathInJson::of((string) $path) + ['as' => mb_scrub($name)], array_keys($putBack->kept), $putBack->kept),
        ], function () use ($putBack): iterable {
            yield "{$putBack->removed} things that the run had placed were removed, {$putBack->returned} that it had replaced are back.";
            foreach ($putBack->left as $left) {
                yield "  left as it is: {$left->path}: {$left->because}";
            }
            foreach ($putBack->kept as $path => $name) {
                yield "  was changed since: /$path is now /$name";
            }
        });

        return $putBack->left === [] ? self::DONE : self::NOT_ALL_RIGHT;
    }
}
