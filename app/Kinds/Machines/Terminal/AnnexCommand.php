<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Annex\AnnexChange;
use InvalidArgumentException;
use Kaiseki\Core\Packets\Wanted;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;

/** What is known of a machine in an annex: what it wanted of others, and what was done in it. */
final class AnnexCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('annex')
            ->setDescription('Lists what a machine in an annex wanted of others, and what was done in it')
            ->addArgument('run', InputArgument::REQUIRED, 'the number of the run that stood it up');
    }

    protected function changes(InputInterface $input): bool
    {
        return false;
    }

    protected function carryOut(InputInterface $input): int
    {
        $number = (string) $input->getArgument('run');
        $annex = Annex::query()->where('run_id', (int) $number)->with('hypervisor', 'changes.user')->first()
            ?? throw new InvalidArgumentException("Run $number stood nothing up in an annex.");
        $annex->ended !== null || $annex->lookIfItCan();
        $document = [
            'run' => $annex->run_id,
            'annex' => $annex->name,
            'on' => $annex->hypervisor->name,
            'ended' => $annex->ended,
            'with' => $annex->others()->pluck('run_id')->all(),
            'wanted' => array_map(self::toldWanted(...), $annex->wanted()),
            'beyond' => $annex->beyond,
            'unread' => $annex->unread,
            'record' => $annex->file(),
            'changes' => $annex->changes->map(self::toldChange(...))->values()->all(),
        ];
        $this->answer($document, fn (): array => self::lines($annex));

        return self::DONE;
    }

    /** @return list<string> */
    private static function lines(Annex $annex): array
    {
        $wanted = array_map(fn (Wanted $one): string => "  {$one->sender} wanted {$one->words()}, {$one->packets} times", $annex->wanted());
        $changes = $annex->changes->map(fn (AnnexChange $one): string => "  {$one->words()} ({$one->why}): {$one->result}")->all();

        $isIn = fn (Annex $other): string => "{$other->run->plan['machine']} is in it as well (run {$other->run_id}).";

        return [
            ...$annex->others()->map($isIn),
            ...$wanted === [] ? ['Nothing that it sent wanted out.'] : ['What it sent, and nobody had:', ...$wanted],
            ...$annex->beyond === 0 ? [] : ["  and {$annex->beyond} packets for which the record had no room"],
            ...$annex->unread === null ? [] : [$annex->unread],
            ...$changes === [] ? ['Nothing was done in it.'] : ['What was done in it:', ...array_values($changes)],
        ];
    }

    /** @return array<string, mixed> */
    private static function toldWanted(Wanted $one): array
    {
        return ['first' => gmdate('Y-m-d\TH:i:s\Z', (int) $one->first), 'last' => gmdate('Y-m-d\TH:i:s\Z', (int) $one->last)]
            + get_object_vars($one);
    }

    /** @return array<string, mixed> */
    public static function toldChange(AnnexChange $change): array
    {
        return [
            'at' => $change->created_at->utc()->format('Y-m-d\TH:i:s\Z'),
            'sort' => $change->sort,
            'what' => $change->what,
            'why' => $change->why,
            'who' => $change->user?->name,
            'state' => $change->state,
            'result' => $change->result,
        ];
    }
}
