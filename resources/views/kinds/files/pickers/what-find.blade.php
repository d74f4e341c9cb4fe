@use('App\Words')
@use('Kaiseki\Core\Archive\EntryKind')
@use('Kaiseki\Core\Catalog\Shown')
<form method="get" action="/requests/{{ $request->id }}" class="inline mb-2" role="search">
    <input type="hidden" name="show" value="what"><input type="hidden" name="by"
        value="find">@include('search-fields', ['form' => $what->form])<button class="btn btn-sm btn-primary">Search</button>
</form>
@if ($what->form->problem !== null)
    <p class="attention">{{ $what->form->problem }}</p>
@endif
@php($hits = $what->hits())
@if ($what->form->isEmpty())
    <p class="empty">Search in this point: by a part of a name, by words in it, by size, time or owner. <a
            class="text-decoration-underline" hx-boost="false" href="/search">Search at all points</a></p>
@elseif ($hits === [])
    @if ($what->form->problem === null)
        <p class="empty">Nothing in this point fits. <a class="text-decoration-underline" hx-boost="false"
                href="/search?{{ $what->form->address() }}">Look at all points</a></p>
    @endif
@else
    <form method="post" action="/requests/{{ $request->id }}/select">@csrf
        @foreach ($what->form->fields() as $name => $value)
            <input type="hidden" name="{{ $name }}" value="{{ $value }}">
        @endforeach
        <div class="scroll found" tabindex="0" role="region" aria-label="What was found">
            <table class="list">
                <thead>
                    <tr>
                        <th class="tick"><span class="visually-hidden">Tick</span></th>
                        <th>Path</th>
                        <th class="num">Size</th>
                        <th>Changed</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($hits as $hit)
                        <tr class="@if ($what->isPicked($hit->newest->path)) chosen @endif">
                            <td class="tick"><input type="checkbox" data-tick name="paths[]"
                                    value="{{ rawurlencode($hit->newest->path) }}" aria-label="{{ Shown::name($hit->newest->path) }}">
                            </td>
                            <td><a data-row class="text-reset" hx-boost="false"
                                    href="{{ $what->versionsUrl($hit->newest->path) }}"><x-path
                                        :of="$hit->newest->path" /></a>
                                @if ($hit->line !== null)
                                    <span class="d-block muted small">{{ $hit->line }}</span>
                                @endif
                            </td>
                            <td class="num">
                                @if ($hit->newest->version->size >= 0 && $hit->newest->version->kind === EntryKind::File)
                                    <x-size :bytes="$hit->newest->version->size" />
                                @endif
                            </td>
                            <td class="tight mono">
                                {{ Words::changed($hit->newest->version->mtime, $frame->zone) }}
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        </div>
        <p class="mt-2"><button class="btn btn-sm btn-outline-primary" name="do" value="ticked">Pick what is ticked</button>
            <button class="btn btn-sm btn-outline-primary" name="do" value="found">Pick all that
                fits{{ count($hits) < 300 ? ' (' . count($hits) . ')' : '' }}</button> <a hx-boost="false"
                href="/search?{{ $what->form->address() }}">the same at all points</a>
        </p>
    </form>
@endif
