<?php

declare(strict_types=1);

namespace App\Kinds\Items\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Erased\ErasedThing;
use App\Models\TrailEntry;
use App\Models\Workload;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** `erased`: personal data that had to be erased, and does not come back out of sets unnoticed. */
final class ErasedCommand extends KaisekiCommand
{
    private const LONGEST = 300;

    protected function configure(): void
    {
        parent::configure();
        $value = InputOption::VALUE_REQUIRED;
        $this->setName('erased')
            ->setDescription('Keeps the list of personal data that had to be erased: what is on it does not come back out of sets')
            ->addArgument('what', InputArgument::REQUIRED, 'add, remove, or list')
            ->addOption('address', null, $value, 'everything that names this address')
            ->addOption('item', null, $value, 'one item, as find and browse name it; with --of')
            ->addOption('of', null, $value, 'the workload of the item')
            ->addOption('reason', null, $value, 'why, and who asked for it');
    }

    protected function carryOut(InputInterface $input): int
    {
        match ($input->getArgument('what')) {
            'list' => $this->list(),
            'add' => $this->add($input),
            'remove' => $this->remove($input),
            default => throw new InvalidArgumentException('It is "erased add", "erased remove" or "erased list".'),
        };

        return self::DONE;
    }

    private function list(): void
    {
        $things = ErasedThing::query()->orderBy('what')->orderBy('value')->get();
        $row = fn (ErasedThing $of): array => [
            'what' => $of->what, 'value' => $of->value, 'reason' => $of->reason, 'by' => $of->actor,
            'since' => $of->created_at->toIso8601ZuluString(),
        ];
        $this->answer(
            ['erased' => $things->map($row)->all()],
            fn (): array => $things->isEmpty()
                ? ['Nothing is on the list.']
                : $things->map(fn (ErasedThing $of): string => "{$of->what}  {$of->value}  {$of->reason}")->all(),
        );
    }

    private function add(InputInterface $input): void
    {
        [$what, $value] = $this->said($input);
        $reason = trim((string) $input->getOption('reason'));
        if ($reason === '' || mb_strlen($reason) > self::LONGEST) {
            throw new InvalidArgumentException('Say with --reason why, in at most '.self::LONGEST.' characters.');
        }
        ErasedThing::query()->updateOrCreate(
            ['what' => $what, 'value' => $value],
            ['reason' => $reason, 'actor' => (string) (posix_getpwuid(posix_getuid())['name'] ?? 'command line')],
        );
        TrailEntry::add("The $what $value is on the list of what was erased: $reason", null, null);
        $this->answer(
            ['what' => $what, 'value' => $value, 'reason' => $reason],
            fn (): array => ["The $what $value is on the list: no run brings it back out of any set."],
        );
    }

    private function remove(InputInterface $input): void
    {
        [$what, $value] = $this->said($input);
        if (ErasedThing::query()->where(['what' => $what, 'value' => $value])->delete() === 0) {
            throw new InvalidArgumentException("The $what $value is not on the list; \"erased list\" shows what is.");
        }
        TrailEntry::add("The $what $value was taken off the list of what was erased.", null, null);
        $this->answer(['what' => $what, 'value' => $value], fn (): array => ["The $what $value may come back again."]);
    }

    /** @return array{string, string} see ErasedThing */
    private function said(InputInterface $input): array
    {
        [$address, $item] = [$input->getOption('address'), $input->getOption('item')];
        if (($address === null) === ($item === null)) {
            throw new InvalidArgumentException('Say what it is by one of --address and --item.');
        }
        if ($address !== null) {
            return [ErasedThing::ADDRESS, ErasedThing::address((string) $address)];
        }
        $key = strtolower((string) $item);
        if (preg_match('/^[0-9a-f]{64}$/D', $key) === 1) {
            return [ErasedThing::ITEM, $key];
        }
        $workload = Workload::query()->where('name', (string) $input->getOption('of'))->first() ??
            throw new InvalidArgumentException('Say with --of which workload the item is of, or give its whole digest.');
        $found = ItemFinder::named($workload,
            $key) ?? throw new InvalidArgumentException("There is no item \"$item\", or several begin so.");

        return [ErasedThing::ITEM, bin2hex($found->identity)];
    }
}
