<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Scan\AnnexFinding;
use App\Kinds\Machines\Scan\AnnexScan;
use App\Kinds\Machines\Scan\ScanOfMachine;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\Shown;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Looks through the files of a machine in an annex. */
final class ScanCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('scan')
            ->setDescription('Looks through the files of a machine in an annex for what is known to be bad')
            ->addOption('budget', null, InputOption::VALUE_REQUIRED, 'seconds that it may take', (string) AnnexScan::BUDGET);
        OfStanding::describe($this);
    }

    protected function carryOut(InputInterface $input): int
    {
        $budget = (string) $input->getOption('budget');
        if (preg_match('/^[1-9]\d{0,3}$/D', $budget) !== 1 || (int) $budget > AnnexScan::MOST_SECONDS) {
            throw new InvalidArgumentException('--budget is a number of seconds from 1 to '.AnnexScan::MOST_SECONDS.'.');
        }
        try {
            $scan = AnnexScan::order(OfStanding::said($input), (int) $budget, null);
        } catch (CannotBring $cannot) {
            return $this->blocked($cannot->getMessage());
        }
        (new ScanOfMachine($scan))->carryOut();
        $found = $scan->state === AnnexScan::DONE ? AnnexFinding::of($scan->annex)->map(self::told(...))->values()->all() : [];
        $this->answer([
            'scan' => $scan->id,
            'state' => $scan->state,
            'files' => $scan->files,
            'bytes' => $scan->bytes,
            'found' => $found,
            'not_looked' => $scan->not_looked ?? [],
            'not_looked_count' => $scan->not_looked_count,
        ] + ($scan->failure === null ? [] : ['error' => $scan->failure]), fn (): array => self::lines($scan, $found));
        $isDecided = array_filter($found, fn (array $one): bool => $one['verdict'] !== AnnexFinding::HARMLESS) === [];

        return $scan->state === AnnexScan::DONE && $isDecided ? self::DONE : self::NOT_ALL_RIGHT;
    }

    /**
     * @param  list<array<string, mixed>>  $found
     * @return list<string>
     */
    private static function lines(AnnexScan $scan, array $found): array
    {
        if ($scan->state !== AnnexScan::DONE) {
            return [(string) $scan->failure];
        }
        $path = fn (string $path): string => '/'.Shown::name(rawurldecode($path));

        return [
            ucfirst($scan->words()).'.',
            ...array_map(fn (array $one): string => "  finding {$one['finding']}: {$path($one['path'])} is {$one['what']}".
                ($one['verdict'] === null ? ', and waits for a verdict' : ", {$one['verdict']}: {$one['why']}"), $found),
            ...array_map(fn (array $one): string => "  not looked into: {$path($one['path'])}: {$one['because']}", $scan->not_looked ?? []),
        ];
    }

    /** @return array<string, mixed> */
    public static function told(AnnexFinding $finding): array
    {
        return [
            'finding' => $finding->id,
            'path' => $finding->path,
            'what' => $finding->what,
            'sha256' => $finding->digest,
            'size' => $finding->size,
            'verdict' => $finding->verdict,
            'by_rule' => $finding->by_rule,
            'who' => $finding->user?->name,
            'why' => $finding->why,
        ];
    }
}
