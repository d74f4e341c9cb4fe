<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Care\ReadBack;
use App\Models\Check;
use App\Models\Copy;
use App\Sets\CannotPlan;
use App\Sets\Points;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Chain;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class CheckCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('check')
            ->setDescription('Reads copies back whole and compares them with what was registered')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addOption('set', null, InputOption::VALUE_REQUIRED, 'only the copies of this set')
            ->addOption('chain', null, InputOption::VALUE_NONE, 'and of all the sets it rests on')
            ->addOption('store', null, InputOption::VALUE_REQUIRED, 'only the copies on this store');
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $copies = $this->copies($input);
        if ($copies === []) {
            throw CannotPlan::because('there is no such copy');
        }
        $readBack = new ReadBack;
        $checks = [];
        foreach ($copies as $copy) {
            $name = "{$copy->set->name} on {$copy->store->name}";
            $checks[] = $readBack->check($copy, null, false, fn (int $bytes) => $this->progress("$name: ".Words::size($bytes)));
        }
        $this->endProgress();
        $wrong = count(array_filter($checks, fn (Check $check): bool => ! $check->isRight()));
        $this->answer(
            [
                'checks' => array_map(
                    fn (Check $check): array => [
                        'set' => $check->set_name,
                        'store' => $check->store_name,
                        'result' => $check->result,
                        'because' => $check->because,
                        'bytes' => $check->bytes,
                        'seconds' => $check->seconds,
                    ],
                    $checks,
                ),
                'right' => count($checks) - $wrong,
                'wrong' => $wrong,
            ],
            function () use ($checks, $wrong): iterable {
                foreach ($checks as $check) {
                    yield "{$check->set_name} on {$check->store_name}: {$check->result}".
                        ($check->because === null ? '' : '. '.$check->because);
                }
                yield sprintf(
                    '%s read back, %s; %s.',
                    Words::count(count($checks), 'copy', 'copies'),
                    Words::size((int) array_sum(array_map(fn (Check $check): int => $check->bytes, $checks))),
                    $wrong === 0 ? 'all right' : "$wrong not right",
                );
            },
        );

        return $wrong === 0 ? self::DONE : self::NOT_ALL_RIGHT;
    }

    /** @return list<Copy> those that were checked longest ago first */
    private function copies(InputInterface $input): array
    {
        $workload = $this->workload($input);
        $query = Copy::query()
            ->with('store', 'set')
            ->where('workload_id', $workload->id)
            ->orderByRaw('checked_at IS NOT NULL, checked_at, id');
        $named = $input->getOption('set');
        if ($named === null && $input->getOption('chain')) {
            throw new InvalidArgumentException('--chain needs --set: whose chain is it?');
        }
        if ($named !== null) {
            $set = self::knownSet($workload, (string) $named);
            $names = [$set->name];
            if ($input->getOption('chain')) {
                $chain = (new Points($workload))->graph->chainOf($set->name);
                $names =
                    $chain instanceof Chain
                        ? array_map(fn ($of): string => $of->id, $chain->sets)
                        : throw CannotPlan::because("the chain of {$set->name} is not known whole");
            }
            $query->whereIn('set_id', $workload->sets()->whereIn('name', $names)->select('id'));
        }
        $store = $input->getOption('store');
        if ($store !== null) {
            $query->whereIn('store_id', [self::knownStore((string) $store)->id]);
        }

        return array_values($query->get()->all());
    }
}
