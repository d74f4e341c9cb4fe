<?php

declare(strict_types=1);

use App\Models\Workload;
use App\Trees\Catalog\CatalogSearch;
use App\Trees\Catalog\FoundVersion;
use App\Trees\Catalog\SearchQuery;
use Kaiseki\Core\Archive\EntryKind;
use Tests\Support\Desk;

// What is asked of one version at hand is what the catalog is asked: its search over an index is the oracle.

it('tells of one version what the search in the catalog tells of all', function (SearchQuery $query): void {
    new Desk(
        $this,
        fn ($a) => $a->put('plan 7.csv', 'seven')->put('PLAN 8.CSV', 'eight')->put('Ärger', 'x')->put('a[b].txt', '')->put('x?y', 'what')
            ->put('deep/plans/Plan.txt', str_repeat('p', 5000))->put('deep/planned', 'p')->put('other/deep.csv', 'q')->put("odd\nname", 'r')
            ->put("\xff\xfe", 's'),
        fn ($a) => $a->put('later', 'later'),
    );
    $workload = Workload::query()->sole();
    $paths = fn (array $found): array => array_values(array_unique(array_map(fn (FoundVersion $one): string => $one->path, $found)));
    $all = (new CatalogSearch)->find($workload, new SearchQuery(kind: null, sizeFrom: null, name: '*'));
    $fitting = array_filter($all, fn (FoundVersion $one): bool => $query->fits($one->path, $one->version));
    $wanted = $paths((new CatalogSearch)->find($workload, $query));
    expect($paths(array_values($fitting)))->toEqualCanonicalizing($wanted);
})->with([
    ...array_map(
        fn (string $name): SearchQuery => new SearchQuery($name),
        [
            'plan', 'PLAN', '*.csv', 'plan ?.csv', 'ä', 'Ä*', '[b]', 'a[b]*', 'x?y', '?', 'deep/plan', 'DEEP/plan', 'd*p/*', '*/plans/*',
            "odd\n", 'nothing', '*', '.',
        ],
    ),
    new SearchQuery(kind: EntryKind::Folder), new SearchQuery('plan', kind: EntryKind::File), new SearchQuery(sizeFrom: 2, sizeTo: 6),
    new SearchQuery(sizeFrom: 1000), new SearchQuery(changedTo: 0), new SearchQuery(changedFrom: 0), new SearchQuery(owner: '0'),
    new SearchQuery(owner: 'root'), new SearchQuery(owner: 'nobody at all'),
]);
