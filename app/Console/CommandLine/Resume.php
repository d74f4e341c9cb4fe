<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Kinds;
use App\Models\Run;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;

final class Resume extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('resume')
            ->setDescription('Goes on with a run that was stopped or failed, whose process died, or that waits')
            ->addArgument('run', InputArgument::REQUIRED, 'the number of the run');
    }

    protected function carryOut(InputInterface $input): int
    {
        $number = (string) $input->getArgument('run');
        $run = Run::query()->find((int) $number) ?? throw new InvalidArgumentException("There is no run $number.");
        if ($run->isOver() && ! $run->canBeGoneOnWith()) {
            throw new InvalidArgumentException(
                "Run $number is over: it ".($run->put_back_at === null ? "is {$run->state}" : 'was put back').'.',
            );
        }
        $marked = $run->wasAgreedTo() ? null : $run->markedPlace();
        $marked === null || self::refuseMarked($marked, 'going on with this run');
        if ($run->isOver() || $run->state === 'waiting') {
            $run->goOn(); // what it waited for is looked for again
        }
        Kinds::of($run)->carrier()->carryOut($run);
        $run->refresh();
        $this->answer(
            ['run' => $run->id, 'state' => $run->state, 'files' => $run->outcome['files'] ?? 0, 'checks' => $run->outcome['checks'] ?? []],
            fn (): array => ["Run {$run->id} is {$run->state}.", ...$run->failure === null ? [] : [$run->failure]],
        );

        return $run->state === 'done' && ($run->outcome['right'] ?? false) ? self::DONE : self::NOT_ALL_RIGHT;
    }
}
