@use('App\Words')
<section class="mb-3" aria-labelledby="in-its-library">
    <h2 id="in-its-library" class="h6">In its library</h2>
    <p class="mb-1">{{ $record->title }}{{ $record->author === '' ? '' : ', by ' . $record->author }}{{ $record->version === null ? ''
        : ', version ' . $record->version }}.</p>
    @if ($record->versions !== [])
        <div class="scroll short" tabindex="0" role="region" aria-label="Its versions in the library">
            <table class="list">
                <thead>
                    <tr>
                        <th class="num">Version</th>
                        <th>Saved</th>
                        <th>By</th>
                        <th>Remark</th>
                        <th><span class="visually-hidden">What to do</span></th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($record->versions as $one)
                        <tr>
                            <td class="num">{{ $one->number }}</td>
                            <td class="tight mono">{{ $one->savedAt === null ? '' : Words::moment($one->savedAt->in(), $zone, false) }}</td>
                            <td>{{ $one->author }}</td>
                            <td>{{ $one->remark }}</td>
                            <td class="tight">
                                @if ($records->has($path, $one->number))
                                    <a data-row href="{{ $records->page($path, $one->number) }}">look at it</a>
                                @elseif ($one->number === $record->version)
                                    <span class="muted">this one</span>
                                @endif
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        </div>
    @endif
</section>
