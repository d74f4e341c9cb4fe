<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\FindsByLine;
use App\Kinds\FindsFiles;
use App\Kinds\Kinds;
use App\Sets\LeftOut;
use App\Trees\Catalog\FoundVersion;
use App\Trees\Catalog\SearchQuery;
use App\Trees\Catalog\VersionRow;
use App\Trees\Run\PathInJson;
use InvalidArgumentException;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\ArgvInput;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Find extends KaisekiCommand
{
    private const MOST = 100_000;

    protected function configure(): void
    {
        parent::configure();
        $this->setName('find')
            ->setDescription('Finds versions by name, size, time, owner, kind, and by the words in them')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addArgument(
                'pattern',
                InputArgument::OPTIONAL,
                'with * and ? for the whole name; without them it may stand anywhere in it, in any case',
                '',
            )
            ->addOption(
                'text',
                null,
                InputOption::VALUE_REQUIRED,
                'words that stand in it, in plain text, tables and office documents; "in quotation marks" one after the other',
            )
            ->addOption('size', null, InputOption::VALUE_REQUIRED, 'such as 10k, >1M, <500, 1M-2G')
            ->addOption('changed-from', null, InputOption::VALUE_REQUIRED, 'last changed at or after this moment')
            ->addOption('changed-to', null, InputOption::VALUE_REQUIRED, 'last changed at or before this moment')
            ->addOption('owner', null, InputOption::VALUE_REQUIRED, 'the name or number of a user')
            ->addOption('author', null, InputOption::VALUE_REQUIRED, 'a part of the name of who wrote the document, as its library says')
            ->addOption('kind', null, InputOption::VALUE_REQUIRED, 'file, folder or link')
            ->addOption('from', null, InputOption::VALUE_REQUIRED, 'only what was there at or after this moment')
            ->addOption('to', null, InputOption::VALUE_REQUIRED, 'only what was there at or before this moment');
        $this->addOptionsOfKinds();
    }

    protected function kinds(ArgvInput $input): array
    {
        return $this->kindOfNamed($input);
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        $terminal = Kinds::of($workload)->terminal();
        if ($terminal instanceof FindsByLine) {
            $told = $terminal->findByLine($workload, $input, $this->talk());
            $this->endProgress();
            $this->answer($told->document, $told->lines);

            return $told->code;
        }
        $query = self::query($input);
        if ($query->isEmpty()) {
            throw new InvalidArgumentException('Say what to look for.');
        }
        if (! $terminal instanceof FindsFiles) {
            throw new InvalidArgumentException("{$workload->name} holds no files that can be looked for.");
        }
        $notes = [];
        $found = $terminal->find($workload, $query, self::MOST + 1, $this->progress(...), $notes);
        $this->endProgress();
        if (count($found) > self::MOST) {
            $notes[] = 'More than '.number_format(self::MOST).' versions fit; the rest is left out. Narrow the pattern or the span.';
            $found = array_slice($found, 0, self::MOST);
        }
        $leftOut = $found === [] ? LeftOut::of($workload)->words() : '';
        if ($leftOut !== '') {
            $notes[] = "Left out of its sets on purpose: $leftOut.";
        }
        $this->answer(
            ['versions' => array_map(self::row(...), $found), 'notes' => $notes],
            function () use ($found, $notes): iterable {
                foreach ($found as $version) {
                    yield sprintf(
                        '/%s  %s  from %s %s',
                        $version->path,
                        number_format(max(0, $version->version->size)),
                        Instant::ofMicroseconds($version->first)->iso(),
                        $version->until === PHP_INT_MAX ? 'on' : 'until '.Instant::ofMicroseconds($version->until)->iso(),
                    );
                }
                yield from $notes;
                yield $found === [] ? 'Nothing fits.' : count($found).' versions.';
            },
        );

        return self::DONE;
    }

    private static function query(InputInterface $input): SearchQuery
    {
        $moment = fn (string $option): ?int => $input->getOption($option) === null
            ? null
            : Instant::parse((string) $input->getOption($option))->microseconds;
        $nanoseconds = fn (string $option): ?int => $moment($option) === null ? null : $moment($option) * 1000;
        [$from, $to] = $input->getOption('size') === null ? [null, null] : SearchQuery::sizes((string) $input->getOption('size'));
        $kind =
            $input->getOption('kind') === null
                ? null
                : ['file' => EntryKind::File, 'folder' => EntryKind::Folder, 'link' => EntryKind::Symlink][$input->getOption('kind')] ??
                    throw new InvalidArgumentException('--kind is file, folder or link.');

        return new SearchQuery(
            (string) $input->getArgument('pattern'),
            (string) $input->getOption('text'),
            $from,
            $to,
            $nanoseconds('changed-from'),
            $nanoseconds('changed-to'),
            (string) $input->getOption('owner'),
            $kind,
            $moment('from'),
            $moment('to'),
            (string) $input->getOption('author'),
        );
    }

    /** @return array<string, mixed> */
    private static function row(FoundVersion $found): array
    {
        return PathInJson::of('/'.$found->path) + [
            'kind' => VersionRow::kind($found->version),
            'size' => $found->version->size,
            'mtime' => VersionRow::time($found->version->mtime),
            'first' => Instant::ofMicroseconds($found->first)->iso(),
            'until' => $found->until === PHP_INT_MAX ? null : Instant::ofMicroseconds($found->until)->iso(),
        ] + VersionRow::extras($found->version);
    }
}
