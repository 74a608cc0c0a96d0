import { useQuery } from '@tanstack/react-query';
import { useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Comparison } from './comparison.tsx';
import { comparisonOf } from './comparison-of.ts';

/** Two builds held against each other: what would visitors see otherwise? */
export function ComparePage() {
  const { project = '', before = '', after = '' } = useParams();
  const [one, other] = [Number(before), Number(after)];
  const asked = useQuery(comparisonOf(project, one, other));
  return (
    <Page project={project} title={`${before} and ${after}`} what="the two builds" asked={asked}>
      {(comparison) => (
        <>
          <AnswerLine below="What visitors of the one see otherwise in the other, then files, sizes and findings.">
            From build {one}{' '}
            <BrandMark digest={comparison.before.artifact} size={20} className="align-[-3px]" /> to
            build {other}{' '}
            <BrandMark digest={comparison.after.artifact} size={20} className="align-[-3px]" />
          </AnswerLine>
          <Comparison project={project} before={one} after={other} where="" />
        </>
      )}
    </Page>
  );
}
