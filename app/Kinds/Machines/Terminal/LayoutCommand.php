<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Metal\MetalSources;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Metal\Content;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\LayoutProposal;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\PlannedGroup;
use Kaiseki\Core\Metal\PlannedPartition;
use Kaiseki\Core\Metal\PlannedVolume;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;

/** How the disks of a machine were laid out, and how they would come onto those of another. */
final class LayoutCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('layout')
            ->setDescription('Shows how the disks of a machine were laid out at a point, or proposes how they come onto another machine')
            ->addArgument('what', InputArgument::REQUIRED, 'show, or propose')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addArgument('machine', InputArgument::OPTIONAL, 'with propose: the number of its enrolment');
        MachineRestore::describePoint($this);
        MetalRestore::describeLayout($this);
    }

    protected function carryOut(InputInterface $input): int
    {
        $name = (string) $input->getArgument('name');
        $workload = MetalSources::machine($name) ?? throw new InvalidArgumentException("There is no machine \"$name\".");
        $rule = self::copyRule($input);
        [$points, $point] = MachineRestore::point($workload, $input, $rule);
        $record = MetalSources::of($points, $point, $rule)->record();
        if ($input->getArgument('what') === 'show') {
            $this->answer($record->toArray(), fn (): array => self::shown($record));

            return self::DONE;
        }
        $input->getArgument('what') === 'propose'
            || throw new InvalidArgumentException('It is "layout show NAME" or "layout propose NAME MACHINE".');
        $machine = MetalRestore::enrolment((string) $input->getArgument('machine'))->targetMachine();
        $plan = LayoutProposal::of($record, $machine, MetalRestore::wish($input));
        $this->answer(self::document($plan), fn (): array => self::lines($plan));

        return $plan->misfits === [] ? self::DONE : self::BLOCKED;
    }

    /** @return list<string> */
    private static function shown(LayoutRecord $record): array
    {
        $lines = [];
        foreach ($record->disks as $disk) {
            $lines[] = "{$disk->name}: ".Words::size($disk->bytes).', '.($disk->table === '' ? 'no table' : "table {$disk->table}").
                ($disk->startsCode ? ', with code to start by BIOS' : '');
            foreach ($disk->partitions as $one) {
                $lines[] = sprintf(
                    '  %-3s %10s from %-12s %s',
                    $one->number === 0 ? '-' : $one->number,
                    Words::size($one->bytes),
                    $one->start,
                    self::content($one->content),
                );
            }
        }
        foreach ($record->groups as $group) {
            $lines[] = "{$group->name}: a volume group on ".implode(', ', $group->parts);
            foreach ($group->volumes as $one) {
                $lines[] = sprintf('  %-12s %10s %s', $one->name, Words::size($one->bytes), self::content($one->content));
            }
        }

        return $lines;
    }

    private static function content(Content $of): string
    {
        return ($of->type === '' ? 'unknown' : $of->type).
            ($of->label === '' ? '' : ' "'.mb_scrub($of->label).'"').
            ($of->kind->isFilled() ? ', '.Words::size($of->used).' in use' : '').
            ": {$of->kind->words()}";
    }

    /** @return array<string, mixed> */
    public static function document(LayoutPlan $plan): array
    {
        $disks = [];
        foreach ($plan->disks as $disk) {
            $disks[] = [
                'disk' => $disk->was->name,
                'onto' => $disk->onto->name,
                'serial' => $disk->onto->serial,
                'script' => $disk->script(),
                'partitions' => array_map(fn (PlannedPartition $one): array => [
                    'number' => $one->was->number, 'start' => $one->start, 'bytes' => $one->bytes, 'was' => $one->was->bytes,
                    'needs' => $one->needs, 'content' => $one->was->content->kind->value,
                ], $disk->partitions),
            ];
        }

        $groups = array_map(fn (PlannedGroup $group): array => [
            'group' => $group->was->name,
            'parts' => $group->was->parts,
            'bytes' => $group->bytes(),
            'volumes' => array_map(fn (PlannedVolume $one): array => [
                'name' => $one->was->name, 'bytes' => $one->bytes, 'was' => $one->was->bytes, 'needs' => $one->needs,
                'content' => $one->was->content->kind->value,
            ], $group->volumes),
        ], $plan->groups);

        return [
            'disks' => $disks, 'groups' => $groups, 'left_alone' => $plan->leftAlone, 'misfits' => $plan->misfits,
            'cautions' => $plan->cautions,
        ];
    }

    /** @return list<string> */
    public static function lines(LayoutPlan $plan): array
    {
        $lines = [];
        foreach ($plan->disks as $disk) {
            $lines[] = "{$disk->was->name} onto {$disk->onto->name} (".Words::size($disk->onto->bytes).
                ($disk->onto->serial === '' ? '' : ", {$disk->onto->serial}").')'.
                ($disk->onto->marks === [] ? '' : ', on which there is now: '.implode(', ', $disk->onto->marks));
            foreach ($disk->partitions as $one) {
                $lines[] = sprintf(
                    '  %-3s %10s, was %s: %s',
                    $one->was->number === 0 ? '-' : $one->was->number,
                    Words::size($one->bytes),
                    Words::size($one->was->bytes),
                    $one->was->content->kind->words(),
                );
            }
        }
        foreach ($plan->groups as $group) {
            $lines[] = "{$group->was->name}, a volume group on ".implode(', ', $group->was->parts).' ('.Words::size($group->bytes()).')';
            foreach ($group->volumes as $one) {
                $lines[] = sprintf(
                    '  %-12s %10s, was %s: %s',
                    $one->was->name,
                    Words::size($one->bytes),
                    Words::size($one->was->bytes),
                    $one->was->content->kind->words(),
                );
            }
        }
        foreach ($plan->leftAlone as $disk => $because) {
            $lines[] = "$disk: $because";
        }

        return [...$lines, ...$plan->misfits, ...$plan->cautions];
    }
}
