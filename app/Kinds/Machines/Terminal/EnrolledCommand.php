<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Metal\Enrolment;
use App\Words;
use Kaiseki\Core\Metal\TargetDisk;
use Symfony\Component\Console\Input\InputInterface;

/** The machines that a recovery medium was started on, and the codes that wait for one. */
final class EnrolledCommand extends KaisekiCommand
{
    private const SHOWN = 50;

    protected function configure(): void
    {
        parent::configure();
        $this->setName('enrolled')->setDescription('Lists the machines that a recovery medium was started on, and codes that wait for one');
    }

    protected function carryOut(InputInterface $input): int
    {
        $all = Enrolment::query()->with('workload')->orderByDesc('id')->limit(self::SHOWN)->get();
        $this->answer(['enrolled' => array_values($all->map(fn (Enrolment $one): array => [
            'enrolment' => $one->id,
            'workload' => $one->workload->name,
            'state' => $one->state(),
            'words' => $one->phrase,
            'address' => $one->address,
            'machine' => $one->machine,
            'seen_at' => $one->seen_at?->format('Y-m-d\TH:i:s\Z'),
            'run' => $one->run_id,
            'follows_minutes' => $one->isFollowing() ? $one->follow_minutes : null,
            'at' => $one->atSet?->name,
            'because' => $one->because,
        ])->all())], fn (): iterable => $all->isEmpty()
            ? ['No medium enrolled a machine yet. A code for one is made with: bin/kaiseki medium code NAME']
            : $all->flatMap(self::lines(...))->all());

        return self::DONE;
    }

    /** @return list<string> */
    private static function lines(Enrolment $one): array
    {
        $shows = $one->phrase === null ? '' : "; its screen shows: {$one->phrase}";
        $lines = ["{$one->id}  {$one->workload->name}: {$one->state()}$shows"];
        if ($one->isFollowing()) {
            $lag = $one->lag() === null ? 'at a set that is gone' : "at {$one->atSet?->name}, ".Words::duration($one->lag()).' behind';
            $lines[] = "    $lag, looked for every {$one->follow_minutes} min";
            $one->because === null || $lines[] = "    cannot go on: {$one->because}";
        }
        $machine = $one->machine === null ? null : $one->targetMachine();
        if ($machine !== null) {
            $memory = Words::size($machine->memory << 10);
            $lines[] = "    {$machine->product} ({$machine->firmware}), $memory of memory, from {$one->address}";
            array_push($lines, ...array_map(fn (TargetDisk $disk): string => "    {$disk->name}: ".Words::size($disk->bytes).
                ($disk->serial === '' ? ', no serial number' : ", {$disk->serial}").($disk->isMedium ? ', the medium' : '').
                ($disk->marks === [] ? ', no table and no file system' : ': '.implode(', ', $disk->marks)), $machine->disks));
        }

        return $lines;
    }
}
